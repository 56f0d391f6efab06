import { mkdir } from 'node:fs/promises';
import { dirname, extname, join, resolve } from 'node:path';
import { promisify } from 'node:util';
import { deflate } from 'node:zlib';
import { LurnError, stoppedError } from '@lurn/core';
import { dataExportById, handOver, inTurn, readData, type DataFile, type Pack } from '@lurn/core/formats';
import { ZipFile } from '@lurn/engine';
import type { HandOverArguments } from './arguments/index.js';
import { checkOutputs, readText, writeOut } from './files.js';
import { progressLine, type Surroundings } from './surroundings.js';

const deflated = promisify<Uint8Array, { level: number }, Buffer>(deflate);
/** On threads of its own. */
const pack: Pack = (raw) => deflated(raw, { level: 4 });

/** `lurn hand-over`: measured or solved motion as another program wants it. */
export async function handOverCommand(args: HandOverArguments, io: Surroundings): Promise<object> {
  const { as, out, choices, own, size, fps } = args;
  const format = dataExportById(as);
  const isFolder = format.many !== undefined && extname(out).toLowerCase() !== '.zip';
  await checkOutputs({ 'data file': args.data }, isFolder ? {} : { '--out': out });
  const data = readData(await readText(args.data), { ...size, ...(fps !== null && { fps }) }, own);
  const files = handOver(data, format, choices, pack);
  const names = data.things.map((t) => t.name);
  const told = { out, as, kind: data.kind, names };
  if (!format.many) {
    for await (const { content } of inTurn(files)) await writeOut(out, content);
    return { ...told, files: 1 };
  }
  const total = format.many.aFrame * data.things.reduce((n, t) => n + t.frames.length, 0);
  const progress = progressLine(io, 'Writing');
  let count = 0;
  const counted = (function* () {
    for (const file of files) {
      if (io.signal.aborted) throw stoppedError('Writing');
      yield file;
      progress?.(++count, total);
    }
  })();
  await (isFolder ? intoFolder(out, counted) : intoZip(out, counted));
  return { ...told, files: count };
}

async function intoFolder(folder: string, files: Iterable<DataFile>): Promise<void> {
  for await (const { name, content } of inTurn(files)) {
    const place = join(resolve(folder), name);
    await mkdir(dirname(place), { recursive: true }).catch((error: NodeJS.ErrnoException) => {
      throw new LurnError('bad-output', `--out ${folder} cannot be made a folder: ${error.message}.`);
    });
    await writeOut(place, content);
  }
}

async function intoZip(path: string, files: Iterable<DataFile>): Promise<void> {
  const zip = new ZipFile(resolve(path));
  try {
    for await (const { name, content } of inTurn(files))
      await zip.add(name, typeof content === 'string' ? Buffer.from(content) : content);
    await zip.finish();
  } catch (error) {
    await zip.discard();
    throw error;
  }
}
