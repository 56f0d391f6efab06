import { createWriteStream } from 'node:fs';
import { copyFile, link, mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { LurnError, stoppedError } from '@lurn/core';
import sharp from 'sharp';
import { open as openZip, type Entry, type ZipFile } from 'yauzl';
import { streamOf } from './decode.js';
import { partOf } from './part-file.js';
import { probeFile } from './probe.js';
import { isTelecined, untelecined } from './telecine.js';
import { asFile, ffmpegPath, LOCAL_ONLY, runTool, startTool } from './tools.js';

export interface ConformRequest {
  /** A folder or a zip of pictures, or a clip. */
  readonly path: string;
  /** How it is called where something is wrong with it. */
  readonly name: string;
  /** The Matroska file that is made. */
  readonly out: string;
  /** Pictures a second; null: 25 of pictures, and of a clip its own. */
  readonly rate: number | null;
  readonly signal?: AbortSignal;
  readonly onProgress?: (frames: number) => void;
}

/** What was made, in a sentence for the person. */
export interface Conformed {
  readonly note: string;
}

const PICTURES = /\.(png|jpe?g|tiff?|exr)$/i;
const SOUNDS = /\.(wav|flac|mp3|m4a|aac|ogg)$/i;
/** Pictures a second where nobody says otherwise. */
const RATE = 25;
/** Pictures that a sequence has at the most, and bytes of all of them. */
const [MOST, MOST_BYTES] = [200_000, 500e9];

/** True of a zip, by its first bytes. */
export async function isZip(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { buffer } = await file.read(Buffer.alloc(4), 0, 4, 0);
    return buffer.readUInt32BE(0) === 0x504b0304;
  } finally {
    await file.close();
  }
}

/** The fields that a clip's pictures are woven of: which is first; null where they are whole. */
export async function fieldsOf(
  path: string,
  name: string,
  signal?: AbortSignal,
): Promise<'top' | 'bottom' | null> {
  return (await probeFile(path, name, signal)).fields;
}

/**
 * Makes a clip without loss of what is none, or is awkward to work on: a folder or zip of pictures at a rate, with a sound
 * file beside them; a clip whose fields are put together into whole pictures (ffmpeg's bwdif; of telecined film its own pictures), or whose varying rate is made constant. As FFV1 in Matroska, sound as it is.
 *
 * @throws LurnError `not-video` where there are no pictures, `uneven-pictures`, `bad-zip`, `too-large`, `disk-full`,
 *         `conform-failed`, `stopped`; no half file is left
 */
export async function conform(request: ConformRequest): Promise<Conformed> {
  const { path } = request;
  const folder = (await stat(path)).isDirectory();
  if (folder || (await isZip(path))) return ofPictures(request, folder);
  const { fields, ...facts } = await probeFile(path, request.name, request.signal);
  const film = fields !== null && (await isTelecined(path, facts, request.signal));
  const whole = fields ? [`bwdif=mode=send_frame:parity=${fields === 'top' ? 'tff' : 'bff'}:deint=all`] : [];
  const filters = [
    // Where the size changes on the way, the first one holds.
    `scale=${facts.codedWidth}:${facts.codedHeight}`,
    ...(film ? untelecined(fields) : whole),
    ...(request.rate ? [`fps=${request.rate}`] : []),
  ];
  const input = [...LOCAL_ONLY, '-noautorotate', '-reinit_filter', '0', '-i', asFile(path)];
  const maps = ['-map', streamOf(facts), '-map', '0:a?', '-vf', filters.join(',')];
  const passing = request.rate ? [] : ['-vsync', 'passthrough'];
  await encode(request, [...input, ...maps, ...passing, '-c:a', 'copy']);
  const said = [
    ...(film ? ['film that was spread over fields was put together again, four pictures of five'] : []),
    ...(fields && !film
      ? [`its fields, the ${fields} one first, were put together into whole pictures`]
      : []),
    ...(request.rate ? [`its rate was made ${request.rate} a second`] : []),
  ];
  return {
    note: said.length > 0 ? `Conformed without loss: ${said.join(', and ')}.` : 'Conformed without loss.',
  };
}

async function ofPictures(request: ConformRequest, folder: boolean): Promise<Conformed> {
  const { path, name, out, signal } = request;
  const work = `${partOf(out)}s`;
  await mkdir(work);
  try {
    const found = folder ? await linked(path, work) : await unpacked(path, name, work, signal);
    const pictures = found.filter((n) => PICTURES.test(n)).sort(naturally);
    if (pictures.length === 0)
      throw new LurnError('not-video', `"${name}" has no pictures in it: PNG, JPEG, TIFF or EXR.`);
    const kind = extname(pictures[0]).toLowerCase();
    await demandEven(
      pictures.map((n) => join(work, n)),
      kind,
    );
    for (const [i, picture] of pictures.entries())
      await rename(join(work, picture), join(work, `${String(i).padStart(6, '0')}${kind}`));
    const sound = found.find((n) => SOUNDS.test(n));
    const rate = request.rate ?? RATE;
    const input = [
      // What is linear in OpenEXR is brought to where screens show it.
      ...(kind === '.exr' ? ['-apply_trc', 'iec61966_2_1'] : []),
      ...[
        '-f',
        'image2',
        '-framerate',
        String(rate),
        '-i',
        asFile(join(work.replaceAll('%', '%%'), `%06d${kind}`)),
      ],
      ...(sound ? [...LOCAL_ONLY, '-i', asFile(join(work, sound))] : []),
    ];
    const written = await encode(request, [...input, '-map', '0:v:0', ...(sound ? ['-map', '1:a:0', '-c:a', 'copy'] : [])]); // prettier-ignore
    if (written < pictures.length) {
      await rm(out, { force: true });
      const which = await firstBroken(
        pictures.map((_, i) => join(work, `${String(i).padStart(6, '0')}${kind}`)),
      );
      throw new LurnError('uneven-pictures', `"${basename(pictures[which])}" is broken or cut off: its picture cannot be decoded. Export it again.`); // prettier-ignore
    }
    const assumed = request.rate === null ? ', as nothing said otherwise' : '';
    return {
      note: `${pictures.length} pictures at ${rate} a second${assumed}${sound ? ', with their sound' : ''}.`,
    };
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

/** @returns the number of pictures that were written */
async function encode(
  { out, signal, onProgress }: ConformRequest,
  input: readonly string[],
): Promise<number> {
  const grown = partOf(out);
  const coding = ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-slices', '4', '-slicecrc', '1'];
  const args = [
    '-y',
    '-v',
    'error',
    '-nostats',
    '-progress',
    'pipe:1',
    ...input,
    ...coding,
    '-f',
    'matroska',
    asFile(grown),
  ];
  try {
    const tool = await startTool(ffmpegPath(), args, signal);
    tool.child.stdin!.end();
    let frames = 0;
    tool.child.stdout!.setEncoding('utf8').on('data', (text: string) => {
      const frame = [...text.matchAll(/frame= *(\d+)/g)].at(-1);
      if (frame) frames = Number(frame[1]);
      onProgress?.(frames);
    });
    await tool.succeed('conform-failed', 'Conforming the clip');
    await rename(grown, out);
    return frames;
  } finally {
    await rm(grown, { force: true });
  }
}

/** 2 before 10. */
const naturally = (a: string, b: string) => a.localeCompare(b, 'en', { numeric: true });

/** Every file of a folder under its own name, without being copied where the disk can do that. */
async function linked(folder: string, work: string): Promise<string[]> {
  const names = (await readdir(folder)).filter(
    (n) => !n.startsWith('.') && (PICTURES.test(n) || SOUNDS.test(n)),
  );
  for (const name of names)
    await link(join(folder, name), join(work, name)).catch(() =>
      copyFile(join(folder, name), join(work, name)),
    );
  return names;
}

/** The place in the list of the first picture that cannot be decoded whole; 0 where all seem fine. */
async function firstBroken(files: readonly string[]): Promise<number> {
  for (const [i, file] of files.entries()) {
    const args = ['-v', 'error', '-xerror', '-i', asFile(file.replaceAll('%', '%%')), '-f', 'null', '-'];
    const { status, stderr } = await runTool(ffmpegPath(), args, { seconds: 60 });
    if (status !== 0 || stderr.trim() !== '') return i;
  }
  return 0;
}

/** Pictures of one size and kind. @throws LurnError `uneven-pictures` that names the first other one */
async function demandEven(files: readonly string[], kind: string): Promise<void> {
  const other = files.find((f) => extname(f).toLowerCase() !== kind);
  if (other)
    throw new LurnError('uneven-pictures', `"${basename(other)}" is of another kind than the first, ${kind}. Bring in pictures of one kind.`); // prettier-ignore
  if (kind === '.exr') return;
  let first: { width?: number; height?: number } | null = null;
  for (const file of files) {
    const { width, height } = await sharp(file).metadata().catch(() => {
      throw new LurnError('uneven-pictures', `"${basename(file)}" cannot be read as a picture.`);
    }); // prettier-ignore
    first ??= { width, height };
    if (width === first.width && height === first.height) continue;
    throw new LurnError(
      'uneven-pictures',
      `"${basename(file)}" is ${width} x ${height}, the first ${first.width} x ${first.height}. Pictures of a sequence are of one size.`,
    );
  }
}

/** Takes pictures and sounds out of a zip, each under its bare name: nothing is written elsewhere, whatever it says. */
async function unpacked(path: string, name: string, work: string, signal?: AbortSignal): Promise<string[]> {
  const zip = await new Promise<ZipFile>((resolve, reject) =>
    openZip(path, { lazyEntries: true, autoClose: false }, (error, file) =>
      error ? reject(error) : resolve(file),
    ),
  ).catch((error: Error) => {
    throw badZip(name, error);
  });
  const names = new Set<string>();
  let bytes = 0;
  try {
    await new Promise<void>((resolve, reject) => {
      zip.on('error', (error: Error) => reject(badZip(name, error)));
      zip.on('end', resolve);
      zip.on('entry', (entry: Entry) => {
        const bare = basename(entry.fileName);
        const wanted = !/^\.|^__MACOSX\//.test(bare) && (PICTURES.test(bare) || SOUNDS.test(bare));
        if (!wanted || names.has(bare)) return zip.readEntry();
        bytes += entry.uncompressedSize;
        if (signal?.aborted) return reject(stoppedError('Unpacking'));
        if (names.size >= MOST || bytes > MOST_BYTES)
          return reject(new LurnError('too-large', `"${name}" unpacks to more than ${MOST} pictures or ${MOST_BYTES / 1e9} GB.`)); // prettier-ignore
        names.add(bare);
        zip.openReadStream(entry, (error, stream) => {
          if (error) return reject(badZip(name, error));
          pipeline(stream, createWriteStream(join(work, bare))).then(() => zip.readEntry(), reject);
        });
      });
      zip.readEntry();
    });
  } finally {
    zip.close();
  }
  return [...names];
}

function badZip(name: string, error: Error): LurnError {
  if (error instanceof LurnError) return error;
  return new LurnError(
    'bad-zip',
    `"${name}" is a zip that cannot be unpacked: ${error.message}. Pack it again.`,
  );
}
