import { newDocument } from './document.js';
import { parseDocument } from './parse.js';
import { NEW_SPOT } from './trackers/index.js';

/** What is looked up by an id or a hash never meets a name of another kind. */

const CLIP = { width: 64, height: 48, frames: 10 };
const blank = newDocument(CLIP);
const withSpot = (id: string) => ({
  ...blank,
  trackers: [{ ...NEW_SPOT, id, name: 'A', mover: 'mover-1', colour: 0, patch: [9, 9], reach: [9, 9] }],
});

describe('ids', () => {
  it.each(['__proto__', 'constructor', 'toString', '', '../x', 'a\u0000', 'x'.repeat(41)])(
    '%j is none, and is refused where it stands',
    (id) => {
      expect(() => parseDocument(withSpot(id), CLIP)).toThrow(
        expect.objectContaining({ code: 'bad-document', details: { path: 'document.trackers[0].id' } }),
      );
    },
  );

  it.each(['s-1', 'steadied', 'scene-2', '3f0c6b5e-9a51-4a53-8f2b-0f5dbd5a7c11'])('%j is one', (id) => {
    const { patch, reach, ...rest } = withSpot(id).trackers[0];
    const document = { ...blank, trackers: [{ ...rest, patch, reach, minConfidence: 0.5 }] };
    expect(parseDocument(document, CLIP).trackers[0].id).toBe(id);
  });
});

describe('texts', () => {
  it('have no half of a character alone in them', () => {
    const spot = { ...withSpot('s-1').trackers[0], minConfidence: 0.5, name: 'a\ud800b' };
    expect(() => parseDocument({ ...blank, trackers: [spot] }, CLIP)).toThrow(/name must be a text/);
    const whole = { ...spot, name: 'a\ud83d\ude80b' };
    expect(parseDocument({ ...blank, trackers: [whole] }, CLIP).trackers[0].name).toBe('a\ud83d\ude80b');
  });
});

describe('hashes', () => {
  it.each(['../../../x.png', 'F'.repeat(64), 'f'.repeat(63)])('%j is none', (hash) => {
    const asset = { hash, name: 'x.png', width: 4, height: 4, bytes: 9, frames: 1, fps: 0, vector: false };
    expect(() => parseDocument({ ...blank, assets: [asset] }, CLIP)).toThrow(
      /document\.assets\[0\]\.hash must be a SHA-256/,
    );
  });
});

describe('lists of objects', () => {
  it.each(['notes', 'accepted', 'regroups', 'deliveries', 'movers', 'areas', 'trackers', 'layers'])(
    'a list is no entry of %s',
    (name) => {
      expect(() => parseDocument({ ...blank, [name]: [[]] }, CLIP)).toThrow(
        expect.objectContaining({ code: 'bad-document' }),
      );
    },
  );

  it('nor of the keys of the goal, nor of what joins a spot', () => {
    expect(() => parseDocument({ ...blank, goal: { ...blank.goal, keys: [[]] } }, CLIP)).toThrow(
      /goal\.keys/,
    );
    const spot = { ...withSpot('s-1').trackers[0], minConfidence: 0.5, joins: [[]] };
    expect(() => parseDocument({ ...blank, trackers: [spot] }, CLIP)).toThrow(/joins/);
  });
});
