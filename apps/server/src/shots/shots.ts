import { Injectable } from '@nestjs/common';
import { countSamples, fromColumns, LurnError, type Track, type TrackColumns } from '@lurn/core';
import { newDocument, parseDocument, type SavedShot, type SaveShot, type ShotState } from '@lurn/model';
import { and, eq, notInArray } from 'drizzle-orm';
import { Clips } from '../clips/clips.js';
import { Database } from '../database/database.js';
import { shots, tracks } from '../database/schema.js';
import { Events } from '../events/events.js';

/** Shots: what an editor has made of a clip. A save is one transaction: document and tracks, or nothing. */
@Injectable()
export class Shots {
  constructor(
    private readonly database: Database,
    private readonly clips: Clips,
    private readonly events: Events,
  ) {}

  async load(clipId: string): Promise<SavedShot> {
    const { info } = await this.clips.ready(clipId);
    const row = await this.database.orm.query.shots.findFirst({ where: eq(shots.clipId, clipId) });
    if (!row) return { revision: 0, document: newDocument(info), tracks: {} };
    const rows = await this.database.orm.query.tracks.findMany({ where: eq(tracks.clipId, clipId) });
    return {
      revision: row.revision,
      document: parseDocument(row.document, info),
      tracks: Object.fromEntries(rows.map((t) => [t.spotId, t.columns])),
    };
  }

  async state(clipId: string): Promise<ShotState & { revision: number }> {
    const saved = await this.load(clipId);
    return { ...saved, tracks: mapTracks(saved.tracks) };
  }

  /** @throws LurnError `conflict` when somebody saved in between; DocumentError; `bad-track` */
  async save(clipId: string, save: SaveShot): Promise<{ revision: number }> {
    const { info } = await this.clips.ready(clipId);
    const document = parseDocument(save.document, info);
    const ids = document.spots.map((s) => s.id);
    for (const [id, columns] of Object.entries(save.tracks)) {
      const track = fromColumns(columns);
      if (track.start + track.state.length > info.frames) {
        throw new LurnError(
          'bad-track',
          `The track of spot "${id}" goes past the clip's ${info.frames} frames.`,
        );
      }
    }
    const revision = save.revision + 1;
    await this.database.orm.transaction(async (tx) => {
      const row = await tx.query.shots.findFirst({ where: eq(shots.clipId, clipId) });
      if ((row?.revision ?? 0) !== save.revision) {
        throw new LurnError(
          'conflict',
          'The shot was changed elsewhere in the meantime. Load it again and join the two.',
          {
            revision: row?.revision ?? 0,
          },
        );
      }
      const values = { clipId, revision, document, updatedAt: new Date().toISOString() };
      await tx.insert(shots).values(values).onConflictDoUpdate({ target: shots.clipId, set: values });
      for (const [spotId, columns] of Object.entries(save.tracks)) {
        if (!ids.includes(spotId)) continue;
        await tx
          .insert(tracks)
          .values({ clipId, spotId, columns })
          .onConflictDoUpdate({ target: [tracks.clipId, tracks.spotId], set: { columns } });
      }
      await tx.delete(tracks).where(and(eq(tracks.clipId, clipId), notInArray(tracks.spotId, ids)));
    });
    this.events.emit({ kind: 'shot', id: clipId, revision });
    return { revision };
  }

  /** How far the work on a clip has come, for the list of shots. */
  async work(clipId: string): Promise<{ spots: number; trackedFrames: number }> {
    const row = await this.database.orm.query.shots.findFirst({ where: eq(shots.clipId, clipId) });
    if (!row) return { spots: 0, trackedFrames: 0 };
    const rows = await this.database.orm.query.tracks.findMany({ where: eq(tracks.clipId, clipId) });
    const longest = Math.max(0, ...rows.map((t) => countSamples(fromColumns(t.columns))));
    return { spots: row.document.spots.length, trackedFrames: longest };
  }
}

function mapTracks(columns: Readonly<Record<string, TrackColumns>>): Record<string, Track> {
  return Object.fromEntries(Object.entries(columns).map(([id, c]) => [id, fromColumns(c)]));
}
