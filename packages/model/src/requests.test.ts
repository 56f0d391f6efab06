import { checked } from './checks.js';
import { newDocument } from './document.js';
import { OrderRender, RenameClip, SaveShotBody } from './requests.js';

const measured = { kind: 'spot', start: 3, state: 'p', confidence: [1], values: { x: [5], y: [null] } };
const save = (change: object = {}) => ({
  revision: 2,
  document: newDocument({ width: 640, height: 360, frames: 10 }),
  measured: { a: measured },
  ...change,
});
const faultOf = (made: Parameters<typeof checked>[0], body: unknown) => {
  const result = checked(made, JSON.parse(JSON.stringify(body)), 'body');
  return 'fault' in result ? `${result.fault.path} ${result.fault.why}` : null;
};

describe('what the server is sent', () => {
  it('passes when all is in place, the document as it came', () => {
    const body = JSON.parse(JSON.stringify(save())) as object;
    const result = checked(SaveShotBody, body, 'body');
    expect(result).toEqual({ value: body });
    expect(faultOf(RenameClip, { name: 'Summit' })).toBeNull();
    expect(faultOf(OrderRender, { revision: 1, crf: 18 })).toBeNull();
  });

  it.each([
    ['no object at all', SaveShotBody, [], 'body is not an object'],
    ['a document that is none', SaveShotBody, save({ document: 'x' }), 'body.document is not an object'],
    ['a strange value', SaveShotBody, save({ more: 1 }), 'body.more is not known'],
    [
      'a strange kind',
      SaveShotBody,
      save({ measured: { a: { ...measured, kind: 'blob' } } }),
      'body.measured',
    ],
    [
      'texts for numbers',
      SaveShotBody,
      save({ measured: { a: { ...measured, confidence: ['1'] } } }),
      'body.measured',
    ],
    ['half a revision', SaveShotBody, save({ revision: 1.5 }), 'body.revision must be a whole number'],
    ['a blank name', RenameClip, { name: '  ' }, 'body.name must be a text of 1 to 120 characters'],
    ['a quality out of range', OrderRender, { revision: 0, crf: 99 }, 'body.crf must be a number from'],
  ] as const)('is refused: %s', (_, made, body, why) => {
    expect(faultOf(made as typeof SaveShotBody, body)).toContain(why);
  });
});
