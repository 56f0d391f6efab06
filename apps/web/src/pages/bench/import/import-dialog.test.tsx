/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import { gridOfMap, stMap } from '@lurn/core/formats';
import type { Matrix3 } from '@lurn/core/geometry';
import { countSamples } from '@lurn/core/track';
import { softOf, spotsOf, surfacesOf, trackOf } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { shotDocument, shotState, undo } from '../../../state/shot';
import { lying, openBench, shotWith, spot } from '../../../testing/open-bench';
import { readMaps } from '../../../workers/open-maps';
import { ImportDialog } from './ImportDialog';

jest.mock('sonner', () => ({ toast: { success: jest.fn(), warning: jest.fn() } }));
jest.mock('../../../workers/open-maps', () => ({ readMaps: jest.fn() }));

/** Files of samples and of motion: what would come of them is shown, and then done as one step. */

const CSV =
  'spot,frame,x_px,y_px,confidence,state\ngable,0,100.5,60,1,pinned\ngable,1,101.5,60,0.9,tracked\ngable,3,103.5,60,0.9,tracked\n';

beforeAll(() => {
  HTMLDialogElement.prototype.showModal = function (this: HTMLDialogElement) {
    this.open = true;
  };
});
beforeEach(() => {
  openBench();
  setBench({ importing: true });
});

function fileOf(name: string, text: string, size = text.length): File {
  const file = new File([text], name);
  Object.defineProperty(file, 'text', { value: () => Promise.resolve(text) });
  Object.defineProperty(file, 'size', { value: size });
  return file;
}
function choose(file: File) {
  fireEvent.change(screen.getByLabelText('File of samples'), { target: { files: [file] } });
}
const upshot = () => screen.findByRole('list', { name: 'What will be imported' });
const press = () => fireEvent.click(screen.getByText('Import', { selector: 'button' }));
const ready = () => !screen.getByText<HTMLButtonElement>('Import', { selector: 'button' }).disabled;

it('tells what would come of a table, its gaps too, and brings it in as one step', async () => {
  render(<ImportDialog />);
  expect(ready()).toBe(false);
  choose(fileOf('samples.csv', CSV));
  expect((await upshot()).textContent).toMatch(/^gable: 3 samples, frames 0 to 3, 1 frames between/);
  press();
  const [gable] = spotsOf(shotDocument());
  expect([gable.name, countSamples(trackOf(shotState(), gable.id))]).toEqual(['gable', 3]);
  expect(bench().importing).toBe(false);
  undo();
  expect(spotsOf(shotDocument())).toEqual([]);
});

it('a column can be another than it was taken for, and the first frame another number', async () => {
  render(<ImportDialog />);
  choose(fileOf('samples.csv', CSV));
  await upshot();
  const across = screen.getByRole<HTMLSelectElement>('combobox', { name: 'Across, px' });
  expect(across.value).toBe('2');
  fireEvent.change(across, { target: { value: '3' } });
  fireEvent.change(screen.getByRole('combobox', { name: /The clip’s first frame/ }), {
    target: { value: '1' },
  });
  // There is no frame before the first.
  expect((await screen.findByRole('alert')).textContent).toMatch(/Nothing was imported/);
  expect(ready()).toBe(false);
});

it('samples of a spot that is there replace its own only when that is said', async () => {
  openBench(shotWith([spot('gable'), lying(5, 5, 0, 9)]));
  render(<ImportDialog />);
  choose(fileOf('samples.csv', CSV));
  await upshot();
  fireEvent.click(screen.getByLabelText(/Replace the samples of “gable”/));
  press();
  const spots = spotsOf(shotDocument());
  expect(spots.map((s) => s.name)).toEqual(['gable']);
  expect(trackOf(shotState(), spots[0].id).values.x[0]).toBeCloseTo(100.5, 3);
});

it('corners become a surface; what cannot be read, or is far too large, is told', async () => {
  render(<ImportDialog />);
  choose(fileOf('nothing.csv', 'a,b\n1,2\n'));
  await screen.findByRole('alert');
  expect(ready()).toBe(false);
  choose(fileOf('huge.csv', 'x', 60e6));
  expect((await screen.findByText(/huge.csv has 60 MB/)).textContent).toMatch(/Nothing was imported/);
  choose(
    fileOf(
      'sign.csv',
      'surface,frame,time_s,x1_px,y1_px,x2_px,y2_px,x3_px,y3_px,x4_px,y4_px,confidence,state\nsign,1,0.04,10,10,90,12,88,70,11,72,0.9,tracked\n',
    ),
  );
  expect((await upshot()).textContent).toBe('sign: a flat surface, 1 frame, as it lies on frame 1');
  expect(screen.queryByRole('alert')).toBeNull();
  press();
  expect(surfacesOf(shotDocument()).map((s) => s.name)).toEqual(['sign']);
});

it('a zip of maps becomes a mesh; what was chosen before and comes late does not stand in its place', async () => {
  const size = { width: 640, height: 360 };
  const at = (x: number): Matrix3 => [1, 0, x, 0, 1, 0, 0, 0, 1];
  const maps = [0, 1].map((f) => gridOfMap(stMap(at(3 * f), size), f, size));
  let fail: (error: Error) => void = () => undefined;
  jest
    .mocked(readMaps)
    .mockImplementationOnce(() => new Promise((_, reject) => (fail = reject)))
    .mockResolvedValueOnce({ maps, size });
  render(<ImportDialog />);
  choose(fileOf('slow.zip', ''));
  expect(screen.getByRole('status').textContent).toMatch(/Reading the maps/);
  choose(fileOf('quick.zip', ''));
  const list = await upshot();
  expect(within(list).getByText(/^quick: a mesh of \d+ points, 2 frames$/)).toBeTruthy();
  fail(new Error('It is broken.'));
  await waitFor(() => expect(screen.queryByRole('status')).toBeNull());
  expect(screen.queryByText(/It is broken/)).toBeNull();
  press();
  expect(softOf(shotDocument()).map((s) => s.name)).toEqual(['quick']);
});
