import { blob, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { ApiError, ClipInfo, ClipStatus, Edges, RenderStatus, ShotDocument } from '@lurn/model';
import type { Donor, Matrix3, Size, TrackColumns } from '@lurn/core';

export const clips = sqliteTable('clips', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  /** File name in the clip's folder. */
  file: text('file').notNull(),
  bytes: integer('bytes').notNull(),
  /** SHA-256 of the file, by which a second upload of it is recognised. */
  hash: text('hash').notNull(),
  status: text('status').$type<ClipStatus>().notNull(),
  info: text('info', { mode: 'json' }).$type<ClipInfo>(),
  /** Float64 seconds of each frame, little-endian. */
  times: blob('times', { mode: 'buffer' }),
  shakiness: real('shakiness'),
  usesCopy: integer('uses_copy', { mode: 'boolean' }).notNull().default(false),
  error: text('error', { mode: 'json' }).$type<ApiError>(),
  createdAt: text('created_at').notNull(),
  deletedAt: text('deleted_at'),
});

export const shots = sqliteTable('shots', {
  clipId: text('clip_id').primaryKey(),
  revision: integer('revision').notNull(),
  document: text('document', { mode: 'json' }).$type<ShotDocument>().notNull(),
  updatedAt: text('updated_at').notNull(),
});

export const tracks = sqliteTable(
  'tracks',
  {
    clipId: text('clip_id').notNull(),
    spotId: text('spot_id').notNull(),
    columns: text('columns', { mode: 'json' }).$type<TrackColumns>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.clipId, table.spotId] })],
);

/** All that a render needs, as it was when it was asked for. */
export interface RenderOrder {
  readonly from: number;
  readonly to: number;
  readonly crf: number;
  readonly zoom: number;
  /** F S of the frames from `from` to `to`. */
  readonly pictures: readonly Matrix3[];
  /** These three are missing in orders from before they could be chosen. */
  readonly delivery?: Size;
  readonly edges?: Edges;
  /** From which frames the edges of the frames from `from` to `to` are borrowed. */
  readonly donors?: readonly (readonly Donor[])[];
}

export const renders = sqliteTable('renders', {
  id: text('id').primaryKey(),
  clipId: text('clip_id').notNull(),
  status: text('status').$type<RenderStatus>().notNull(),
  order: text('order_json', { mode: 'json' }).$type<RenderOrder>().notNull(),
  done: integer('done').notNull().default(0),
  bytes: integer('bytes'),
  note: text('note'),
  error: text('error', { mode: 'json' }).$type<ApiError>(),
  createdAt: text('created_at').notNull(),
});
