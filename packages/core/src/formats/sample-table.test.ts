import { samplesOf } from '../track/track.js';
import { guessMapping, readSampleTable, samplesFromTable } from './sample-table.js';

const CLIP = { width: 960, height: 540, frames: 100 };
const read = (text: string, firstFrame = 0) => {
  const table = readSampleTable(text);
  return samplesFromTable(table, guessMapping(table), CLIP, firstFrame, 'new');
};

describe('importing samples', () => {
  it('takes plain frame, x, y with and without names, gaps staying gaps', () => {
    for (const text of ['frame,x,y\n0,10,20\n1,11,21\n5,15.5,25\n', '0,10,20\n1,11,21\n5,15.5,25']) {
      const [spot] = read(text);
      expect(spot.name).toBe('new');
      expect([...samplesOf(spot.track)].map((s) => [s.frame, s.x, s.y])).toEqual([
        [0, 10, 20],
        [1, 11, 21],
        [5, 15.5, 25],
      ]);
    }
  });

  it('takes semicolons with decimal commas, tabs, and columns in any order', () => {
    const semicolons = readSampleTable('y;frame;x\n20,25;3;412,5\n');
    expect(semicolons).toMatchObject({ separator: ';', decimalComma: true });
    expect([...samplesOf(read('y;frame;x\n20,25;3;412,5\n')[0].track)][0]).toMatchObject({
      frame: 3,
      x: 412.5,
      y: 20.25,
    });
    expect([...samplesOf(read('frame\tx\ty\n1\t2\t3\n')[0].track)][0]).toMatchObject({
      frame: 1,
      x: 2,
      y: 3,
    });
  });

  it('takes our own columns, several spots, JSON, and frames counted from 1', () => {
    const own =
      'spot,frame,time_s,x_px,y_px,confidence,state\na,0,0,1,2,0.5,tracked\n"b, left",0,0,3,4,1,pinned\n';
    expect(read(own).map((s) => s.name)).toEqual(['a', 'b, left']);
    expect([...samplesOf(read(own)[1].track)][0].state).toBe('pinned');
    const json = JSON.stringify({ samples: [{ frame: 1, x: 5, y: 6 }] });
    expect([...samplesOf(read(json, 1)[0].track)][0]).toMatchObject({ frame: 0, x: 5, y: 6 });
  });

  it.each([
    ['', /the file is empty/],
    ['frame,x,y\n', /no sample in it/],
    ['frame,x\n1,2', /line 1 has 2 columns/],
    ['frame,x,y\n0,1,2\n1,2\n', /line 3 has 2 columns where the first has 3/],
    ['frame,x,y\n0,1,2\n100,1,2\n', /line 3, column frame: 100 is not a frame of the clip \(0 to 99\)/],
    ['frame,x,y\n0.5,1,2\n', /line 2, column frame: 0\.5 is not a frame/],
    ['frame,x,y\n0,1,2\n0,1,2\n', /line 3, column frame: frame 0 of "new" was given before, in line 2/],
    ['frame,x,y\n0,NaN,2\n', /line 2, column x: "NaN" is not a number/],
    ['frame,x,y\n0,1,Infinity\n', /line 2, column y: "Infinity" is not a number/],
    ['frame,x,y\n0,,2\n', /line 2, column x: "" is not a number/],
    ['frame,x,y\n0,99999,2\n', /line 2, column x: 99999 px is far outside the picture/],
    ['frame;x;y\n0;1,5;2\n1;2;x\n', /line 3, column y: "x" is not a number/],
    ['frame,x,y,confidence\n0,1,2,7\n', /column confidence: a confidence lies between 0 and 1/],
    ['frame,x,y,state\n0,1,2,guessed\n', /column state: "guessed" is not one of pinned, tracked/],
    ['"frame,x,y\n', /line 1: a quotation mark is not closed/],
    ['{"samples": 4}', /holds no list/],
    ['[{"frame": 0, "x": "a", "y": 1}]', /entry 1, column x: "a" is not a number/],
  ])('names line and column of what is wrong (%#)', (text, message) => {
    expect(() => read(text)).toThrow(
      expect.objectContaining({ code: 'bad-import', message: expect.stringMatching(message) }),
    );
  });
});
