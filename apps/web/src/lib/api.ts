import { fromWire, LurnError, type WireError } from '@lurn/core';
import { packColumns, unpackRaster, unpackScene } from '@lurn/core/formats';
import type { ClipFile } from '@lurn/media';
import {
  readColumns,
  readShotBody,
  SHOT_BODY_TYPE,
  shotBodyHead,
  type ApiError,
  type AskMask,
  type ClipSummary,
  type FormatSummary,
  type MadeMask,
  type QueueSummary,
  type RenderSummary,
  type RevisedShot,
  type TakenAsset,
} from '@lurn/model';

/** The server, one function a request. Every failure is a LurnError with the server's code and sentence. */

async function answered(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch {
    throw new LurnError('offline', 'The server does not answer. Is it still running?');
  }
  if (response.ok) return response;
  const told = ((await response.json().catch(() => null)) ?? {}) as Partial<ApiError>;
  throw fromWire({ code: 'fault', message: `The server answered ${response.status}.`, ...told });
}

async function call<T>(path: string, init?: RequestInit): Promise<T> {
  const response = await answered(path, init);
  if (response.status === 204) return undefined as T;
  return (await response.json().catch(() => null)) as T;
}

function send<T>(method: string, path: string, body: unknown, more?: RequestInit): Promise<T> {
  return call(path, {
    method,
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
    ...more,
  });
}

/** @returns the document as it was stored, which is checked where it is opened */
async function shotFrom(response: Response): Promise<RevisedShot> {
  const { revision, document, columns } = readShotBody(new Uint8Array(await response.arrayBuffer()));
  const measured = Object.fromEntries([...columns].map(([id, bytes]) => [id, readColumns(bytes)]));
  return { revision, document, measured } as RevisedShot;
}

function bytesOf({ revision, document, measured }: RevisedShot): Blob {
  const columns = new Map(Object.entries(measured).map(([id, m]) => [id, packColumns(m)]));
  return new Blob([shotBodyHead({ revision, document, columns }), ...columns.values()]);
}

/** An answer line by line, as it comes. */
async function* linesOf(response: Response): AsyncGenerator<string> {
  let rest = '';
  const decoder = new TextDecoder();
  const reader = response.body!.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    const lines = (rest + decoder.decode(value, { stream: !done })).split('\n');
    rest = done ? '' : lines.pop()!;
    yield* lines.filter(Boolean);
    if (done) return;
  }
}

/** Clips that are asked for at a time. */
const PAGE = 60;

export const api = {
  /** All clips, newest first, page by page. @param seen  is told of those that are there already */
  clips: async (seen?: (clips: readonly ClipSummary[]) => void): Promise<ClipSummary[]> => {
    const clips: ClipSummary[] = [];
    for (;;) {
      const after = clips.length > 0 ? `&after=${clips[clips.length - 1].id}` : '';
      const page = await call<ClipSummary[]>(`/clips?limit=${PAGE}${after}`);
      clips.push(...page);
      if (page.length < PAGE) return clips;
      seen?.([...clips]);
    }
  },
  /** Takes a clip's file over, for layers of other shots. */
  assetOfClip: (id: string) => send<TakenAsset>('POST', `/assets/from-clip/${id}`, {}),
  /** Makes a film of the masks of something that moves in a clip. @param onFrame  is told how many have been made */
  mask: async (id: string, ask: AskMask, signal: AbortSignal, onFrame: (done: number) => void) => {
    const response = await answered(`/assets/mask-of/${id}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(ask),
      signal,
    });
    for await (const line of linesOf(response)) {
      const told = JSON.parse(line) as Partial<MadeMask> & { done?: number; error?: WireError };
      if (told.error) throw fromWire(told.error);
      if (told.asset) return told as MadeMask;
      onFrame(told.done ?? 0);
    }
    throw new LurnError('offline', 'The server ended before the mask was made.');
  },
  /** What a layer shows, as the samples that are rendered. */
  raster: async (of: 'raster' | 'text' | 'film', ask: object) => {
    const response = await answered(`/assets/${of}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(ask),
    });
    return unpackRaster(new Uint8Array(await response.arrayBuffer()));
  },
  clip: (id: string) => call<ClipSummary>(`/clips/${id}`),
  /** Of clips that wait to be read, this comes next. */
  readFirst: (id: string) => call<undefined>(`/clips/${id}/first`, { method: 'POST' }),
  times: (id: string) => call<{ times: number[] }>(`/clips/${id}/times`),
  renameClip: (id: string, name: string) => send<ClipSummary>('PATCH', `/clips/${id}`, { name }),
  deleteClip: (id: string) => call<undefined>(`/clips/${id}`, { method: 'DELETE' }),
  restoreClip: (id: string) => call<ClipSummary>(`/clips/${id}/restore`, { method: 'POST' }),
  shot: async (id: string) =>
    shotFrom(await answered(`/clips/${id}/shot`, { headers: { Accept: SHOT_BODY_TYPE } })),
  saveShot: (id: string, shot: RevisedShot) =>
    call<{ revision: number }>(`/clips/${id}/shot`, {
      method: 'PUT',
      headers: { 'Content-Type': SHOT_BODY_TYPE },
      body: bytesOf(shot),
    }),
  scene: async (id: string) =>
    unpackScene(new Uint8Array(await (await answered(`/clips/${id}/scene`)).arrayBuffer())),
  /** @param delivery  the id of one; the first where it is left out */
  render: (id: string, revision: number, crf: number, delivery?: string) =>
    send<RenderSummary>('POST', `/clips/${id}/renders`, { revision, crf, delivery }),
  stopRender: (id: string) => call<RenderSummary>(`/renders/${id}/stop`, { method: 'POST' }),
  goOn: (id: string) => call<RenderSummary>(`/renders/${id}/go-on`, { method: 'POST' }),
  /** Puts renders that wait into this order. */
  arrangeRenders: (ids: readonly string[]) => send<undefined>('POST', '/renders/order', { ids }),
  queue: () => call<QueueSummary>('/queue'),
  formats: () => call<FormatSummary[]>('/formats'),
  removeRender: (id: string) => call<undefined>(`/renders/${id}`, { method: 'DELETE' }),
};

const clipUrl = (clipId: string) => `${location.origin}/api/clips/${clipId}`;
export const filmUrl = (clipId: string, row: number) => `/api/clips/${clipId}/film/${row}`;
export const waveformUrl = (clipId: string) => `/api/clips/${clipId}/waveform`;
export const soundUrl = (clipId: string) => `/api/clips/${clipId}/sound`;
export const thumbnailUrl = (clipId: string) => `/api/clips/${clipId}/thumbnail`;
export const renderUrl = (id: string, download = false) =>
  `/api/renders/${id}/file${download ? '?download=1' : ''}`;

/** @param turn  asks anew where it differs */
export const lastPictureUrl = (id: string, turn: number) => `/api/renders/${id}/last?turn=${turn}`;

/** What the page reads a clip from, in full and, where there is such a copy, in reduced size. */
export function filesOf(
  { id, info, usesCopy, made }: ClipSummary,
  times: Float64Array,
): { file: ClipFile; reduced: ClipFile | null } {
  const { width, height, turns } = info!;
  const url = clipUrl(id);
  const copy = usesCopy && made?.copy;
  const file: ClipFile = {
    ...{ times, width, height, turns, usesCopy },
    ...(copy ? { url: `${url}/copy`, part: copy.part } : { url: `${url}/file` }),
  };
  const reduced = made?.reduced && {
    ...made.reduced,
    ...{ url: `${url}/reduced`, times, turns: 0 as const, usesCopy: true },
  };
  return { file, reduced: reduced ?? null };
}

export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
