import { toast } from 'sonner';
import { LurnError } from '@lurn/core';
import { fromJson, toJson, type MeasuredJson } from '@lurn/core/formats';
import type { Measured } from '@lurn/core/track';
import { type ClipBounds, mergeStates, migrateMeasured, parseDocument, type ShotState } from '@lurn/model';
import { api, messageOf } from '../lib/api';
import { bench, setBench, useBench } from './bench';
import { replaceShot, shotState, useShot } from './shot';

/** Saves by itself: a moment after every change, and to this browser when the page goes away before that. */

const DELAY_MS = 350;
/** While it is being tracked everything changes again and again. */
const TRACKING_MS = 2500;
const RETRY_MS = 3000;

/** What a page had not saved when it went away, with what it was made from, so that the two can be told apart. */
interface Journal {
  readonly revision: number;
  readonly document: ShotState['document'];
  readonly measured: Readonly<Record<string, MeasuredJson>>;
  /** The server's state that this was made from; of what was measured, what has changed since. Missing in old journals. */
  readonly base?: {
    readonly document: ShotState['document'];
    readonly measured: Readonly<Record<string, MeasuredJson>>;
  };
}

const journalKey = (clipId: string) => `lurn.unsaved.${clipId}`;

function measuredFrom(stored: Readonly<Record<string, MeasuredJson>>): Record<string, Measured> {
  return Object.fromEntries(
    Object.entries(stored).map(([id, columns]) => [id, fromJson(migrateMeasured(columns))]),
  );
}

export class Saver {
  private readonly unsubscribe: () => void;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private inFlight: Promise<void> | null = null;
  private closed = false;

  /**
   * @param saved     the state as the server has it
   * @param revision  its number there
   */
  constructor(
    private readonly clipId: string,
    private saved: ShotState,
    private revision: number,
  ) {
    const shots = useShot.subscribe(() => this.changed());
    // What was put off while it was being tracked is saved when that has ended.
    const ends = useBench.subscribe((now, before) => {
      if (before.tracking && !now.tracking && this.timer) void this.save();
    });
    this.unsubscribe = () => {
      shots();
      ends();
    };
    window.addEventListener('pagehide', this.keep);
    document.addEventListener('visibilitychange', this.keep);
    this.changed();
  }

  /** The server's state, joined with what this browser kept of the shot when its page went away unsaved. */
  static recover(clipId: string, server: ShotState, revision: number, clip: ClipBounds): ShotState {
    const text = localStorage.getItem(journalKey(clipId));
    if (!text) return server;
    try {
      const journal = JSON.parse(text) as Journal & { tracks?: Journal['measured'] };
      // A page of an older version may have left it.
      const read = (kept: Pick<Journal, 'document' | 'measured'>): ShotState => ({
        document: parseDocument(kept.document, clip),
        measured: { ...server.measured, ...measuredFrom(kept.measured ?? {}) },
      });
      const mine = read({ document: journal.document, measured: journal.measured ?? journal.tracks });
      const base = journal.base && read(journal.base);
      // Without what it was made from, whatever differs from the server is taken for this page's doing.
      return base ? mergeStates(base, mine, server) : journal.revision >= revision ? mine : server;
    } catch {
      localStorage.removeItem(journalKey(clipId));
      return server;
    }
  }

  /** Waits until everything is on the server. @returns its revision */
  async settled(): Promise<number> {
    while (shotState() !== this.saved) {
      await this.save();
      if (shotState() !== this.saved) await new Promise((resume) => setTimeout(resume, 100));
    }
    return this.revision;
  }

  /** Another tab has saved: takes its changes over. */
  async follow(revision: number): Promise<void> {
    if (revision <= this.revision || this.inFlight) return;
    await this.mergeWithServer();
  }

  close(): void {
    this.keep();
    void this.save();
    this.closed = true;
    this.unsubscribe();
    if (this.timer) clearTimeout(this.timer);
    window.removeEventListener('pagehide', this.keep);
    document.removeEventListener('visibilitychange', this.keep);
  }

  private changed(delay = DELAY_MS): void {
    if (this.closed) return;
    if (shotState() === this.saved) {
      // Undone back to what the server has.
      if (!this.inFlight) setBench({ saving: 'saved' });
      return;
    }
    // What could not be saved stays told until it is.
    if (bench().saving !== 'failed') setBench({ saving: 'unsaved' });
    if (!this.timer) this.saveIn(bench().tracking ? TRACKING_MS : delay);
  }

  private saveIn(ms: number): void {
    this.timer = setTimeout(() => {
      this.timer = null;
      void this.save();
    }, ms);
  }

  private readonly keep = () => {
    if (shotState() === this.saved) return;
    const { document, measured } = this.unsaved(shotState());
    const jsonOf = (list: ShotState['measured']) =>
      Object.fromEntries(Object.entries(list).map(([id, m]) => [id, toJson(m)]));
    const before = Object.keys(measured).flatMap((id) => {
      const old = this.saved.measured[id];
      return old ? [[id, old] as const] : [];
    });
    const base = { document: this.saved.document, measured: jsonOf(Object.fromEntries(before)) };
    const journal: Journal = { revision: this.revision, document, measured: jsonOf(measured), base };
    try {
      localStorage.setItem(journalKey(this.clipId), JSON.stringify(journal));
    } catch {
      // Too large for this browser's store: the server has all but the last third of a second.
    }
  };

  /** The state without what was measured before and has not changed. */
  private unsaved({ document, measured }: ShotState): ShotState {
    const changed = Object.entries(measured).filter(([id, track]) => this.saved.measured[id] !== track);
    return { document, measured: Object.fromEntries(changed) };
  }

  private async save(): Promise<void> {
    if (this.inFlight) return this.inFlight;
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    if (shotState() === this.saved) return this.changed();
    this.inFlight = this.push().finally(() => {
      this.inFlight = null;
      this.changed();
    });
    return this.inFlight;
  }

  private async push(): Promise<void> {
    const state = shotState();
    setBench({ saving: 'saving' });
    try {
      await this.send(state);
    } catch (error) {
      setBench({ saving: 'failed' });
      this.keep();
      toast.error(`Not saved: ${messageOf(error)} It is kept in this browser and tried again.`, {
        id: 'saving',
      });
      if (!this.closed) this.saveIn(RETRY_MS);
    }
  }

  private async send(state: ShotState): Promise<void> {
    let revision: number;
    try {
      const sent = { revision: this.revision, ...this.unsaved(state) };
      ({ revision } = await api.saveShot(this.clipId, sent));
    } catch (error) {
      if (error instanceof LurnError && error.code === 'conflict') return this.mergeWithServer();
      throw error;
    }
    this.saved = state;
    this.revision = revision;
    localStorage.removeItem(journalKey(this.clipId));
    if (!this.closed)
      setBench({ saving: shotState() === state ? 'saved' : 'unsaved', savedRevision: revision });
  }

  /** Joins this tab's changes with the server's newer state. */
  private async mergeWithServer(): Promise<void> {
    const server = await api.shot(this.clipId);
    const theirs: ShotState = { document: server.document, measured: server.measured };
    const mine = shotState();
    const clean = mine === this.saved;
    const joined = clean ? theirs : mergeStates(this.saved, mine, theirs);
    this.saved = theirs;
    this.revision = server.revision;
    replaceShot(joined);
    setBench({ saving: clean ? 'saved' : 'unsaved', savedRevision: server.revision });
  }
}
