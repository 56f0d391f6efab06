import { toast } from 'sonner';
import { fromColumns, LurnError, toColumns, type TrackColumns } from '@lurn/core';
import { type ClipBounds, mergeStates, parseDocument, type SavedShot, type ShotState } from '@lurn/model';
import { api, messageOf } from '../lib/api';
import { setBench } from './bench';
import { replaceShot, shotState, useShot } from './shot';

/** Saves by itself: a moment after every change, and to this browser when the page goes away before that. */

const DELAY_MS = 350;
const RETRY_MS = 3000;

interface Journal {
  readonly revision: number;
  readonly document: ShotState['document'];
  readonly tracks: Readonly<Record<string, TrackColumns>>;
}

const journalKey = (clipId: string) => `lurn.unsaved.${clipId}`;

export function stateFrom(saved: Pick<SavedShot, 'document' | 'tracks'>): ShotState {
  const tracks = Object.entries(saved.tracks).map(([id, columns]) => [id, fromColumns(columns)]);
  return { document: saved.document, tracks: Object.fromEntries(tracks) };
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
    this.unsubscribe = useShot.subscribe(() => this.changed());
    window.addEventListener('pagehide', this.keep);
    document.addEventListener('visibilitychange', this.keep);
    this.changed();
  }

  /** The server's state, joined with what this browser kept of the shot when its page went away unsaved. */
  static recover(clipId: string, server: ShotState, revision: number, clip: ClipBounds): ShotState {
    const text = localStorage.getItem(journalKey(clipId));
    if (!text) return server;
    try {
      const journal = JSON.parse(text) as Journal;
      const changed = stateFrom(journal);
      // A page of an older version may have left it.
      const mine = {
        document: parseDocument(changed.document, clip),
        tracks: { ...server.tracks, ...changed.tracks },
      };
      return journal.revision >= revision - 1 ? mine : mergeStates(server, mine, server);
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
    await this.join();
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
    setBench({ saving: 'unsaved' });
    if (this.timer) return;
    this.timer = setTimeout(() => void this.save(), delay);
  }

  private readonly keep = () => {
    if (shotState() === this.saved) return;
    const { document, tracks } = this.unsaved(shotState());
    const journal: Journal = { revision: this.revision, document, tracks };
    try {
      localStorage.setItem(journalKey(this.clipId), JSON.stringify(journal));
    } catch {
      // Too large for this browser's store: the server has all but the last third of a second.
    }
  };

  private unsaved(state: ShotState): {
    document: ShotState['document'];
    tracks: Record<string, TrackColumns>;
  } {
    const changed = Object.entries(state.tracks).filter(([id, track]) => this.saved.tracks[id] !== track);
    return {
      document: state.document,
      tracks: Object.fromEntries(changed.map(([id, t]) => [id, toColumns(t)])),
    };
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
      const { revision } = await api.saveShot(this.clipId, {
        revision: this.revision,
        ...this.unsaved(state),
      });
      this.saved = state;
      this.revision = revision;
      localStorage.removeItem(journalKey(this.clipId));
      if (!this.closed)
        setBench({ saving: shotState() === state ? 'saved' : 'unsaved', savedRevision: revision });
    } catch (error) {
      if (error instanceof LurnError && error.code === 'conflict') return this.join();
      setBench({ saving: 'failed' });
      this.keep();
      toast.error(`Not saved: ${messageOf(error)} It is kept in this browser and tried again.`, {
        id: 'saving',
      });
      if (!this.closed) this.timer = setTimeout(() => void this.save(), RETRY_MS);
    }
  }

  /** Joins this tab's changes with the server's newer state. */
  private async join(): Promise<void> {
    const server = await api.shot(this.clipId);
    const theirs = stateFrom(server);
    const mine = shotState();
    const clean = mine === this.saved;
    const joined = clean ? theirs : mergeStates(this.saved, mine, theirs);
    this.saved = theirs;
    this.revision = server.revision;
    replaceShot(joined);
    setBench({ saving: clean ? 'saved' : 'unsaved', savedRevision: server.revision });
  }
}
