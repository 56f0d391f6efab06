import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The built page. */
export const PAGE = fileURLToPath(new URL('../../../web/dist', import.meta.url));

/** Where the server listens and keeps its files; from the environment. */
export class Settings {
  readonly host = '127.0.0.1';
  readonly port = Number(process.env.LURN_PORT ?? 4780);
  /** Where jobs for several machines live, as redis://host:port; null where there is this machine alone. */
  readonly queue = process.env.LURN_QUEUE || null;
  /** Where workers come in. */
  readonly work: { readonly host: string; readonly port: number };
  readonly data: string;
  readonly webRoot: string | null;

  constructor(data = process.env.LURN_DATA ?? 'data', webRoot: string | null = process.env.LURN_WEB ?? null) {
    const [, host = '127.0.0.1', port = '4781'] = /^(?:(.+):)?(\d+)$/.exec(process.env.LURN_WORK ?? '') ?? [];
    this.work = { host, port: Number(port) };
    this.data = resolve(data);
    this.webRoot = webRoot;
    for (const folder of ['clips', 'renders', 'uploads'])
      mkdirSync(join(this.data, folder), { recursive: true });
  }

  clipFolder(id: string): string {
    return join(this.data, 'clips', id);
  }

  get uploads(): string {
    return join(this.data, 'uploads');
  }

  /** Where the parts of a render are kept until it is finished. */
  renderParts(id: string): string {
    return join(this.data, 'renders', `${id} parts`);
  }

  renderFile(id: string, extension: string): string {
    return join(this.data, 'renders', `${id}.${extension}`);
  }
}
