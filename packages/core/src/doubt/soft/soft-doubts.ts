import { faceGrowth, type Mesh } from '../../geometry/mesh.js';
import { softSamples, type SoftTrack } from '../../soft/soft-track.js';
import { spanWords, stretchesOf, type AcceptedDoubt, type Doubt } from '../doubts.js';

/** A soft surface as doubts are told of it. */
export interface DoubtedSoft {
  readonly id: string;
  readonly mesh: Mesh;
  readonly track: SoftTrack;
}

/** A face that has grown or shrunk by more than this against the others, as a ratio, is stretched. */
const STRETCHED = 2.6;
/** Points that are this sure on average, and less, are a weak match. */
const WEAK_MESH = 0.5;
/** More than this part of its points hidden or ended is worth a look. */
const MANY = 0.12;

/**
 * Frames on which a mesh is doubtful: faces that have turned over, or stretch or shrink against the others, many
 * points hidden, and points that match badly on the whole. Cost: linear in frames and faces.
 */
export function judgeSoft(list: readonly DoubtedSoft[], accepted: readonly AcceptedDoubt[] = []): Doubt[] {
  return list
    .flatMap((soft) => judged(soft, accepted))
    .sort((a, b) => b.severity - a.severity || a.from - b.from);
}

function judged({ id, mesh, track }: DoubtedSoft, accepted: readonly AcceptedDoubt[]): Doubt[] {
  const turned = new Map<number, number>();
  const bent = new Map<number, number>();
  const hidden = new Map<number, number>();
  const weak = new Map<number, number>();
  for (const { frame, vertices } of softSamples(track)) {
    if (vertices.length !== mesh.vertices.length) continue;
    const known = mesh.faces.filter((f) => f.every((v) => vertices[v]));
    const to = vertices.map((v) => v ?? { x: NaN, y: NaN });
    const growths = known.map((f) => faceGrowth(f, mesh.vertices, to));
    const over = growths.filter((g) => g <= 0).length;
    if (over > 0) turned.set(frame, over);
    const usual = [...growths].sort((a, b) => a - b)[growths.length >> 1] ?? 1;
    const odd = growths.filter((g) => g > 0 && (g > STRETCHED * usual || g < usual / STRETCHED)).length;
    if (odd > 0) bent.set(frame, odd);
    const away = vertices.filter((v) => !v || v.state === 'coasted').length / vertices.length;
    if (away > MANY) hidden.set(frame, away);
    const sure = vertices.filter((v) => v?.state === 'tracked');
    const mean = sure.reduce((sum, v) => sum + v!.confidence, 0) / sure.length;
    if (mean < WEAK_MESH) weak.set(frame, 1 - mean);
  }
  const of = (
    found: ReadonlyMap<number, number>,
    reason: Doubt['reason'],
    severity: (worst: number) => number,
    tell: (n: number, span: string) => string,
  ) =>
    stretchesOf(
      [...found.keys()],
      { spot: id, reason },
      (f) => found.get(f)!,
      severity,
      (worst, from, to) => tell(found.get(worst)!, spanWords(from, to)),
      accepted,
    );
  const parts = (n: number) => (n === 1 ? 'A part of the mesh' : `${n} parts of the mesh`);
  return [
    ...of(
      turned,
      'turned-over',
      () => 0.85,
      (n, span) => `${parts(n)} ${n === 1 ? 'is' : 'are'} turned over on ${span}.`,
    ),
    ...of(
      bent,
      'stretched',
      (f) => Math.min(0.7, 0.3 + 0.02 * bent.get(f)!),
      (n, span) =>
        `${parts(n)} ${n === 1 ? 'stretches or shrinks' : 'stretch or shrink'} against the others on ${span}.`,
    ),
    ...of(
      hidden,
      'coasted',
      (f) => 0.2 + 0.6 * hidden.get(f)!,
      (share, span) => `${Math.round(100 * share)} % of its points are hidden on ${span}.`,
    ),
    ...of(
      weak,
      'weak-match',
      (f) => 0.15 + 0.7 * weak.get(f)!,
      (off, span) => `The match of its points falls to ${(1 - off).toFixed(2)} on average on ${span}.`,
    ),
  ];
}
