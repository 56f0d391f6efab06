import { Injectable } from '@nestjs/common';
import { LurnError, stoppedError } from '@lurn/core';
import { maskFilmInThread } from '@lurn/engine';
import type { AskMask, MadeMask } from '@lurn/model';
import { LRUCache } from 'lru-cache';
import { Clips } from '../clips/clips.js';
import { Assets } from './assets.js';

/** Makes films of movers' masks, one after the other. */
@Injectable()
export class Masks {
  private last: Promise<unknown> = Promise.resolve();
  /** What was made last, by what was asked: more than one layer may lie behind the same. */
  private readonly made = new LRUCache<string, MadeMask>({ max: 20 });

  constructor(
    private readonly clips: Clips,
    private readonly assets: Assets,
  ) {}

  /** @throws LurnError `no-scene`, `bad-range`, and what {@link maskFilmInThread} throws */
  make(id: string, ask: AskMask, signal: AbortSignal, onProgress: (done: number) => void): Promise<MadeMask> {
    const made = this.last.then(() => this.makeNow(id, ask, signal, onProgress));
    this.last = made.catch(() => undefined);
    return made;
  }

  private async makeNow(
    id: string,
    { mover, regroups, from, to, name }: AskMask,
    signal: AbortSignal,
    onProgress: (done: number) => void,
  ): Promise<MadeMask> {
    if (signal.aborted) throw stoppedError('Making the mask');
    const { row, info, path } = await this.clips.ready(id);
    const asked = JSON.stringify([id, row.made, mover, regroups, from, to]);
    const known = this.made.get(asked);
    if (known && (await this.assets.path(known.asset.hash))) return known;
    await this.clips.present(path, row.name);
    const scene = await this.clips.sceneFile(row);
    if (!scene)
      throw new LurnError('no-scene', `What moves in "${row.name}" is not known. Draw a matte instead.`);
    if (from > to || to >= info.frames)
      throw new LurnError('bad-range', `Frames ${from} to ${to} are none of "${row.name}".`);
    const out = await this.assets.coming();
    const request = { file: path, info, scene, regroups, mover, from, to, out };
    const scale = await maskFilmInThread(request, signal, onProgress);
    const made = { ...(await this.assets.take(out, `${name}.mkv`)), scale };
    this.made.set(asked, made);
    return made;
  }
}
