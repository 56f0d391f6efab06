import type { DataFile } from './data-export.js';

/** A file whose content is there. */
export interface ReadyFile {
  readonly name: string;
  readonly content: string | Uint8Array;
}

/** So many files are begun before the first of them is asked for. */
const AHEAD = 6;

/** Files one after the other as their contents are there; those that are packed elsewhere are begun ahead. */
export async function* inTurn(files: Iterable<DataFile>): AsyncGenerator<ReadyFile> {
  const begun: { name: string; content: Promise<string | Uint8Array> }[] = [];
  const first = async () => {
    const { name, content } = begun.shift()!;
    return { name, content: await content };
  };
  try {
    for (const { name, content } of files) {
      begun.push({ name, content: Promise.resolve(content) });
      if (begun.length >= AHEAD) yield await first();
    }
    while (begun.length > 0) yield await first();
  } finally {
    // Nobody waits for those that are left: what becomes of them is nobody's fault.
    for (const { content } of begun) content.catch(() => undefined);
  }
}
