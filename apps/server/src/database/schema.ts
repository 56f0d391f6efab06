import { blob, index, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { ApiError, ClipInfo, ClipMade, ClipStatus, RenderStatus, ShotDocument } from '@lurn/model';
import type { Matrix3 } from '@lurn/core/geometry';
import type { Size } from '@lurn/core/plan';
import type { MeasuredKind } from '@lurn/core/track';

export const clips = sqliteTable(
  'clips',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    /** File name in the clip's folder. */
    file: text('file').notNull(),
    bytes: integer('bytes').notNull(),
    /** SHA-256 of the file, by which a second upload of it is recognised. */
    hash: text('hash').notNull(),
    /** Of the file that was brought in, where the clip is made of it. */
    broughtHash: text('brought_hash'),
    status: text('status').$type<ClipStatus>().notNull(),
    info: text('info', { mode: 'json' }).$type<ClipInfo>(),
    /** Float64 seconds of each frame, little-endian. */
    times: blob('times', { mode: 'buffer' }),
    shakiness: real('shakiness'),
    usesCopy: integer('uses_copy', { mode: 'boolean' }).notNull().default(false),
    /** Null for clips read before anything but one whole copy was made of them. */
    made: text('made', { mode: 'json' }).$type<ClipMade>(),
    error: text('error', { mode: 'json' }).$type<ApiError>(),
    /** What was made of the file before it was read, in a sentence; null where it is read as it came. */
    note: text('note'),
    createdAt: text('created_at').notNull(),
    deletedAt: text('deleted_at'),
  },
  (table) => [index('clips_by_hash').on(table.hash), index('clips_by_brought_hash').on(table.broughtHash)],
);

const clipId = () =>
  text('clip_id')
    .notNull()
    .references(() => clips.id, { onDelete: 'cascade' });

export const shots = sqliteTable('shots', {
  clipId: clipId().primaryKey(),
  revision: integer('revision').notNull(),
  document: text('document', { mode: 'json' }).$type<ShotDocument>().notNull(),
  updatedAt: text('updated_at').notNull(),
});

/** What was measured of each tracker of a shot: its columns, packed (before version 4 JSON text), which pass through unread. */
export const measured = sqliteTable(
  'measured',
  {
    clipId: clipId(),
    item: text('item').notNull(),
    kind: text('kind').$type<MeasuredKind>().notNull(),
    /** Frames that have a sample. */
    samples: integer('samples').notNull(),
    columns: blob('columns', { mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.clipId, table.item] })],
);

/** All that a render needs, as it was when it was asked for; what was measured lies beside it until it is planned. */
export interface RenderOrder {
  readonly from: number;
  readonly to: number;
  readonly crf: number;
  /** The largest zoom that is applied; null until it is planned. */
  readonly zoom: number | null;
  /** The id of the format that is written. */
  readonly format: string;
  readonly document: ShotDocument;
}

/** An order from before plans were made when a render begins: with the matrices of its frames. */
export interface RenderOrder1 {
  readonly from: number;
  readonly to: number;
  readonly crf: number;
  readonly zoom: number;
  readonly pictures: readonly Matrix3[];
  readonly delivery?: Size;
  readonly edges?: ShotDocument['edges'];
  readonly donors?: readonly (readonly { readonly frame: number; readonly toSource: Matrix3 }[])[];
}

export const renders = sqliteTable(
  'renders',
  {
    id: text('id').primaryKey(),
    clipId: clipId(),
    status: text('status').$type<RenderStatus>().notNull(),
    order: text('order_json', { mode: 'json' }).$type<RenderOrder | RenderOrder1>().notNull(),
    done: integer('done').notNull().default(0),
    bytes: integer('bytes'),
    note: text('note'),
    error: text('error', { mode: 'json' }).$type<ApiError>(),
    createdAt: text('created_at').notNull(),
  },
  (table) => [index('renders_by_clip').on(table.clipId)],
);

/** What was measured when a render was ordered, until it is planned. */
export const renderInputs = sqliteTable(
  'render_inputs',
  {
    renderId: text('render_id')
      .notNull()
      .references(() => renders.id, { onDelete: 'cascade' }),
    item: text('item').notNull(),
    columns: blob('columns', { mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.renderId, table.item] })],
);

export type JobKind = 'read' | 'analyse' | 'render' | 'part';
export type JobState = 'waiting' | 'running';

/** Work to be done, by whichever worker claims it; a job that has ended is deleted, its outcome lies with its subject. */
export const jobs = sqliteTable(
  'jobs',
  {
    id: text('id').primaryKey(),
    kind: text('kind').$type<JobKind>().notNull(),
    /** The id of the clip or render that it is about. */
    subject: text('subject').notNull(),
    state: text('state').$type<JobState>().notNull(),
    worker: text('worker'),
    /** Milliseconds since 1970 until which its worker holds it. */
    leaseUntil: integer('lease_until').notNull().default(0),
    /** ... and before which it is not begun. */
    notBefore: integer('not_before').notNull().default(0),
    attempt: integer('attempt').notNull().default(0),
    /** Frames done. */
    part: integer('part').notNull().default(0),
    createdAt: integer('created_at').notNull(),
  },
  (table) => [index('jobs_by_state').on(table.kind, table.state), index('jobs_by_subject').on(table.subject)],
);
