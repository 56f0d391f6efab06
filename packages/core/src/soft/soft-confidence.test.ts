import { vertexConfidence, type VertexEvidence } from './soft-confidence.js';

const GOOD: VertexEvidence = { error: 0.05, held: 1, misfit: 1, score: 0.98, texture: 8, noise: 1.5 };

describe('confidence of a vertex', () => {
  it('is high where much texture fits', () => {
    expect(vertexConfidence(GOOD)).toBeGreaterThan(0.9);
  });

  it.each([
    ['its place is not well held', { error: 0.6 }],
    ['part of what is about it is hidden', { held: 0.2 }],
    ['it fits badly', { misfit: 2.5 }],
    ['it looks like nothing', { score: 0.3 }],
  ])('falls where %s', (_, worse) => {
    expect(vertexConfidence({ ...GOOD, ...worse })).toBeLessThan(vertexConfidence(GOOD));
  });

  it('does not trust faint texture of a picture whose noise the codec has taken', () => {
    const faint = vertexConfidence({ ...GOOD, texture: 0.8 });
    const coded = vertexConfidence({ ...GOOD, texture: 0.8, noise: 0.3 });
    expect(faint).toBeGreaterThan(0.9);
    expect(coded).toBeLessThan(0.6);
    expect(vertexConfidence({ ...GOOD, texture: 12, noise: 0.3 })).toBeGreaterThan(0.85);
  });

  it('stays a probability at the ends of what can be', () => {
    for (const error of [0, 1e6])
      for (const texture of [0, 1e6]) {
        const p = vertexConfidence({ error, held: 0, misfit: 99, score: -1, texture, noise: 0 });
        expect(p).toBeGreaterThanOrEqual(0);
        expect(p).toBeLessThanOrEqual(1);
      }
  });
});
