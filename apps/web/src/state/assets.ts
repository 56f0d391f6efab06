import { Upload, type DetailedError } from 'tus-js-client';
import { toast } from 'sonner';
import type { Asset, TakenAsset } from '@lurn/model';
import { api, messageOf } from '../lib/api';
import { putClip, putGraphic } from './making-layers';

/** Files that layers show, on their way to the server. */

/** Brings graphics in, one layer each; what is wrong with one is said, and the others come in all the same. */
export async function bringInGraphics(files: readonly File[]): Promise<void> {
  for (const file of files) {
    try {
      const { asset, notes } = await upload(file);
      putAsset(asset);
      for (const note of notes) toast.info(note);
    } catch (error) {
      toast.error((error as Error).message);
    }
  }
}

/** Brings another shot's clip in as a layer. */
export async function bringInClip(id: string): Promise<void> {
  try {
    const { asset, notes } = await api.assetOfClip(id);
    putAsset(asset);
    for (const note of notes) toast.info(note);
  } catch (error) {
    toast.error(messageOf(error));
  }
}

function putAsset(asset: Asset): void {
  if (asset.frames > 1) putClip(asset);
  else putGraphic(asset);
}

/** Sends the file of a layer; a broken connection goes on where it was. @throws Error with a sentence for the person */
export function upload(file: File): Promise<TakenAsset> {
  if (file.size === 0)
    return Promise.reject(new Error(`"${file.name}" is empty (0 bytes). Export it again.`));
  return new Promise((resolve, reject) => {
    const sending = new Upload(file, {
      endpoint: '/api/uploads',
      chunkSize: 16 * 1024 * 1024,
      retryDelays: [0, 500, 1500, 4000, 8000],
      removeFingerprintOnSuccess: true,
      metadata: { filename: file.name, filetype: file.type, for: 'layer' },
      onSuccess: ({ lastResponse }) => resolve(JSON.parse(lastResponse.getBody()) as TakenAsset),
      onError: (error) => {
        const body = (error as DetailedError).originalResponse?.getBody();
        reject(new Error(told(body) ?? `"${file.name}" could not be sent: the connection broke. Try again.`));
      },
    });
    sending.start();
  });
}

function told(body: string | undefined): string | null {
  try {
    return (JSON.parse(body ?? '') as { message?: string }).message ?? null;
  } catch {
    return null;
  }
}
