import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError } from '@lurn/core';
import { ShakinessMeter } from '@lurn/core/measure';
import type { Plane } from '@lurn/core/picture';
import type { ClipInfo, ClipMade, Film } from '@lurn/model';
import { MOST_ANALYSED, MOST_ON_THE_WAY, writeScene, type Looked } from './analyse.js';
import { filmFor, filmSideline } from './film.js';
import { indexClip, toldOf, type Beside, type Sideline, type ToldClip } from './frame-index.js';
import type { Gate } from './gate.js';
import { partOf, sweepParts } from './part-file.js';
import { uprightSize, type StreamFacts } from './probe.js';
import { SCENE_SAMPLES, SceneReader } from './scene.js';
import { makeThumbnail, thumbnailFilter, thumbnailOutput } from './thumbnail.js';
import { toneFilter } from './tone.js';
import { makeWaveform, soundSideline } from './waveform.js';
import {
  copiesFor,
  copyFilter,
  copyOutput,
  emptyCopy,
  framesIn,
  makeWorkingCopy,
  reduceFilter,
  PART_FRAMES,
  partsBefore,
  type CopyKind,
  type CopyPlan,
} from './working-copy.js';

export interface IngestRequest {
  readonly path: string;
  readonly name: string;
  /** Where `thumb.jpg`, `film`, `wave.bin` and, where they are needed, the folders of the copies go. */
  readonly folder: string;
}

/** What is known of a clip: by its container first, by each of its frames in the end. */
export interface KnownClip {
  readonly info: ClipInfo;
  readonly times: Float64Array;
  readonly made: ClipMade;
  /** True when browsers play `copy` instead of the original. */
  readonly usesCopy: boolean;
}

export interface IngestedClip extends KnownClip {
  /** Root mean square shake, in source pixels. */
  readonly shakiness: number;
}

export interface IngestProgress {
  readonly phase: 'reading' | 'copying';
  readonly frames: number;
  /** Of about how many; null while that is not known. */
  readonly expected: number | null;
  /** Frames of each copy that are whole. */
  readonly copied: Readonly<Record<CopyKind, number>>;
}

/** What looks at every frame on the way. */
interface SpotQuality {
  /** Samples of luma that it wants to see, at the most; undefined where a few do. */
  readonly samples: number | undefined;
  add(luma: Plane): void | Promise<void>;
  /** @param folder  where what is known of the whole picture goes */
  finish(info: ClipInfo, folder: string): Promise<Looked>;
  /** Lets go of what it needed. */
  end?(): void;
}

/** How shaky the clip is, and no more. */
class ShakeLooker implements SpotQuality {
  readonly samples = undefined;
  private readonly meter = new ShakinessMeter();
  private width = 0;

  add(luma: Plane): void {
    this.width = luma.width;
    // The meter keeps what it is given until the next frame: it gets its own copy.
    this.meter.add({ ...luma, data: luma.data.slice() });
  }

  finish({ width, fps, frames }: ClipInfo): Promise<Looked> {
    const shakiness = this.width > 0 ? this.meter.result(fps) * (width / this.width) : 0;
    const unheld = `The clip has more than ${MOST_ANALYSED} frames: too many to follow its whole picture.`;
    return Promise.resolve({ shakiness, scene: null, ...(frames > MOST_ANALYSED && { unheld }) });
  }
}

/** What moves in the clip, and how. */
class SceneLooker implements SpotQuality {
  readonly samples = SCENE_SAMPLES;
  private readonly reader = new SceneReader(true);

  add(luma: Plane): Promise<void> {
    return this.reader.add(luma);
  }

  async finish(info: ClipInfo, folder: string): Promise<Looked> {
    return writeScene(await this.reader.finish(info), info, folder);
  }

  end(): void {
    this.reader.end();
  }
}

/** What is made of a clip on the way, by what its container tells. */
interface Plans {
  readonly copies: readonly CopyPlan[];
  readonly film: Film | null;
  readonly sound: boolean;
}

function plansFor(facts: StreamFacts, plays: boolean): Plans {
  const size = uprightSize(facts);
  const { fps, expected, pixelAspect, audio } = facts;
  return {
    copies: copiesFor(size, fps, plays),
    film: filmFor(size, pixelAspect, expected, fps),
    sound: audio !== null,
  };
}

function madeOf({ copies, film }: Pick<Plans, 'copies' | 'film'>, wave: boolean): ClipMade {
  const copy = (wanted: CopyKind) => {
    const plan = copies.find((p) => p.kind === wanted);
    return plan ? { width: plan.width, height: plan.height, part: plan.part } : null;
  };
  return { copy: copy('copy'), reduced: copy('reduced'), film, wave, scene: null };
}

/** A clip by its container; null where the page could show nothing of it before it has been read. */
function known({ info, times, direct }: ToldClip, plans: Plans): KnownClip | null {
  const made = madeOf(plans, false);
  return direct || made.copy ? { info, times, made, usesCopy: !direct } : null;
}

/** What can be said of a clip before it is read, so that it can be opened while it waits; null where nothing can. */
export async function knowClip({
  path,
  name,
}: Pick<IngestRequest, 'path' | 'name'>): Promise<KnownClip | null> {
  const container = await toldOf(path, name);
  return container && known(container.told, plansFor(container.facts, container.plays));
}

/**
 * All that is found out about a clip when it is brought in, and all that is made of it, in one pass: frame index,
 * shakiness, thumbnail, film strip, waveform, a copy where browsers cannot play the original frame for frame, and a
 * reduced one where they cannot play it at its rate.
 *
 * @param onRead   is told when all is there but what is known of the whole picture, which takes a little longer
 * @param onKnown  is told, early on, what the container says of the clip: from then on it can be worked on
 * @throws LurnError as its parts do.
 */
export async function ingestClip(
  { path, name, folder }: IngestRequest,
  signal?: AbortSignal,
  onProgress?: (progress: IngestProgress) => void,
  onKnown?: (clip: KnownClip) => void,
  gate?: Gate,
  onRead?: (clip: KnownClip) => void,
): Promise<IngestedClip> {
  const at = (file: string) => join(folder, file);
  await Promise.all(
    ['thumb.jpg', 'wave.bin', 'scene.bin', 'copy.mp4'].map((file) => rm(at(file), { force: true })),
  );
  await Promise.all(['film', 'copy', 'reduced'].map((f) => rm(at(f), { force: true, recursive: true })));
  await sweepParts(folder);
  const sound = partOf(at('sound.u8'));
  const copied: Record<CopyKind, number> = { copy: 0, reduced: 0 };
  let plans: Plans = { copies: [], film: null, sound: false };
  let [expected, fps] = [0, 25];
  let quality: SpotQuality = new ShakeLooker();

  const beside = async (facts: StreamFacts, plays: boolean): Promise<Beside> => {
    ({ expected, fps } = facts);
    plans = plansFor(facts, plays);
    const { copies, film } = plans;
    // A folder that cannot be made is told of by what is to be written into it.
    for (const { kind } of copies) await emptyCopy(at(kind)).catch(() => undefined);
    if (film) await mkdir(at('film')).catch(() => undefined);
    const tone = await toneFilter(facts.colour, folder);
    const thumbnail = {
      filter: thumbnailFilter(Math.floor(expected / 3), tone),
      output: thumbnailOutput(at('thumb.jpg')),
    };
    const reducing = copies.find((p) => p.kind === 'reduced');
    const sidelines: Sideline[] = [
      { of: 'pictures', ...thumbnail },
      ...(film ? [filmSideline(film, at('film'), tone)] : []),
      ...copies.map((plan) => ({
        of: 'pictures' as const,
        filter: copyFilter({ ...facts, ...uprightSize(facts) }, plan),
        output: copyOutput(at(plan.kind), plan.kind),
        full: plan.kind === 'copy',
      })),
      ...(plans.sound ? [soundSideline(facts.pictureStart - facts.fileStart, sound)] : []),
    ];
    if (expected <= MOST_ON_THE_WAY) quality = new SceneLooker();
    const { samples } = quality;
    return { sidelines, samples, ...(reducing && { shrink: reduceFilter(reducing) }) };
  };
  const copies = () => plans.copies.some((p) => p.kind === 'copy');

  try {
    const { info, times, direct, ...pass } = await indexClip(path, {
      name,
      signal,
      beside,
      look: async (luma, frame) => {
        await quality.add(luma);
        const phase = copies() ? 'copying' : 'reading';
        onProgress?.({ phase, frames: frame + 1, expected: expected || null, copied: { ...copied } });
      },
      gate,
      onTold: (told) => {
        const clip = known(told, plans);
        if (clip) onKnown?.(clip);
      },
      onLine: (line) => {
        for (const { kind } of plans.copies)
          copied[kind] = (partsBefore(line, kind) ?? copied[kind] / PART_FRAMES) * PART_FRAMES;
      },
    });
    await checkThumbnail(path, info, at('thumb.jpg'), signal);
    let made = copiesFor(info, fps, direct);
    // What was copied on the way is taken if it is whole; else what kept it from being tells when it is made by itself.
    for (const plan of made) {
      const { kind } = plan;
      if (pass.beside && (await framesIn(at(kind), signal).catch(() => 0)) === info.frames) continue;
      const making = makeWorkingCopy(path, info, at(kind), plan, signal, (frames) =>
        onProgress?.({
          phase: 'copying',
          frames,
          expected: info.frames,
          copied: { ...copied, [kind]: frames },
        }),
      );
      // Without a reduced copy a clip plays slowly, and is usable all the same.
      await making.catch((error: unknown) => {
        if (kind === 'copy' || isPressing(error)) throw error;
        made = made.filter((p) => p !== plan);
      });
    }
    const wave = plans.sound && pass.beside && (await makeWaveform(sound, at('wave.bin')).catch(() => 0)) > 0;
    const read: KnownClip = {
      ...{ info, times, usesCopy: !direct, made: madeOf({ ...plans, copies: made }, wave) },
    };
    onRead?.(read);
    // Without it a clip is usable all the same.
    const { shakiness, ...seen } = await quality
      .finish(info, folder)
      .catch((): Looked => ({ shakiness: 0, scene: null }));
    return { ...read, shakiness, made: { ...read.made, ...seen } };
  } finally {
    quality.end?.();
    await rm(sound, { force: true });
  }
}

/** True of what is not about this one file: it was stopped, or the disk is full. */
const isPressing = (error: unknown): boolean =>
  error instanceof LurnError && ['stopped', 'disk-full'].includes(error.code);

/** Makes the thumbnail where it was not taken on the way: the container told of more frames than there are. */
async function checkThumbnail(
  path: string,
  info: ClipInfo,
  thumbnail: string,
  signal?: AbortSignal,
): Promise<void> {
  const taken = await stat(thumbnail).then(
    ({ size }) => size > 0,
    () => false,
  );
  if (taken) return;
  await makeThumbnail(path, info, Math.floor(info.frames / 3), thumbnail, signal).catch((error: unknown) => {
    if (isPressing(error)) throw error;
  });
}
