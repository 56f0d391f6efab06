import { LurnError } from '@lurn/core';
import { ASSETS_FOLDER, isOfShot, parseShotFile, SHOT_JSON, shotFile } from '@lurn/model';
import { strFromU8, strToU8, unzip, zip, type AsyncZippable } from 'fflate';
import { toast } from 'sonner';
import { keepFile } from '../lib/keep-file';
import { upload } from './assets';
import { bench } from './bench';
import { edit, shotDocument, shotState } from './shot';

/** The whole shot as one file, and back: SHOT.json and the files that its layers show, in a zip. */

export async function saveShotFile(): Promise<void> {
  const { clip, info } = bench();
  const files: AsyncZippable = { [SHOT_JSON]: strToU8(shotFile(shotState(), clip.name, info)) };
  const missing: string[] = [];
  for (const { hash, name } of shotDocument().assets) {
    const response = await fetch(`/api/assets/${hash}`);
    // They are packed already.
    if (response.ok)
      files[ASSETS_FOLDER + hash] = [new Uint8Array(await response.arrayBuffer()), { level: 0 }];
    else missing.push(name);
  }
  if (missing.length > 0)
    toast.warning(`Not in the file, because they have gone from the server: ${missing.join(', ')}.`);
  const bytes = await new Promise<Uint8Array>((resolve, reject) =>
    zip(files, (error, data) => (error ? reject(error) : resolve(data))),
  );
  keepFile(
    `${clip.name} shot.zip`,
    new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'application/zip' }),
  );
}

/** Takes a saved shot over in place of this one: one step of undo. */
export async function bringInShotFile(file: File): Promise<void> {
  try {
    const files = await unzipped(file);
    const text = files[SHOT_JSON];
    if (!text) throw new LurnError('bad-shot-file', `"${file.name}" has no ${SHOT_JSON} in it.`);
    const state = parseShotFile(strFromU8(text), bench().info);
    const absent: string[] = [];
    for (const { hash, name } of state.document.assets) {
      const bytes = files[ASSETS_FOLDER + hash];
      if (bytes) await upload(new File([bytes as Uint8Array<ArrayBuffer>], name));
      else if (!(await fetch(`/api/assets/${hash}`, { method: 'HEAD' })).ok) absent.push(name);
    }
    edit(() => state);
    toast.success(`The shot is as it was saved in "${file.name}". Undo brings back what was here.`);
    if (absent.length > 0) toast.warning(`Missing from the file: ${absent.join(', ')}.`);
  } catch (error) {
    toast.error((error as Error).message);
  }
}

async function unzipped(file: File): Promise<Record<string, Uint8Array>> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  // SHOT.json alone will do where nothing else belongs to it.
  if (bytes[0] === '{'.charCodeAt(0)) return { [SHOT_JSON]: bytes };
  let fault: unknown = null;
  const filter = ({ name, originalSize }: { name: string; originalSize: number }) => {
    try {
      return isOfShot(name, originalSize);
    } catch (error) {
      fault = error;
      return false;
    }
  };
  const files = await new Promise<Record<string, Uint8Array>>((resolve, reject) =>
    unzip(bytes, { filter }, (error, data) =>
      error
        ? reject(new LurnError('bad-shot-file', `"${file.name}" is no shot, or a broken zip.`))
        : resolve(data),
    ),
  );
  if (fault) throw fault as Error;
  return files;
}
