import { toast } from 'sonner';
import { notesAsCsv, readNotes, type NotesFile } from '@lurn/core/formats';
import { addCuts, changeDocument, LIMITS, setRange, type Note } from '@lurn/model';
import { plural } from '../lib/format';
import { keepFile } from '../lib/keep-file';
import { bench, goTo, setBench } from './bench';
import { repairSpan } from './repairs';
import { edit, shotDocument } from './shot';

/** No file of notes is as large. */
const LARGEST = 20e6;

/** By their frames. */
export const inOrder = (notes: readonly Note[]) => [...notes].sort((a, b) => a.from - b.from || a.to - b.to);
const clock = () => ({ times: bench().times, fps: bench().info.fps });

/** Begins a note on the frame that is shown, or on the chosen stretch that it lies in. */
export function beginNote(): void {
  const { frame } = bench();
  const span = repairSpan();
  const within = span && span.from <= frame && frame <= span.to ? span : { from: frame, to: frame };
  const { from, to } = within;
  setBench({ noting: { id: null, from, to, text: '' }, playing: false });
}

export function editNote(note: Note): void {
  setBench({ noting: note });
  goTo(note.from);
}

/** Takes over what was written; nothing written takes the note away. */
export function keepNote(text: string): void {
  const { noting } = bench();
  setBench({ noting: null });
  if (!noting) return;
  const { id, from, to } = noting;
  const said = text.trim().slice(0, LIMITS.note);
  if (id !== null && said === '') removeNote(id);
  else if (id !== null && said !== noting.text) changeNote(id, { text: said });
  else if (id === null && said !== '') takeAll({ notes: [{ from, to, text: said }], range: null, cuts: [] });
}

export function changeNote(id: string, change: Partial<Omit<Note, 'id'>>): void {
  edit((s) =>
    changeDocument(s, { notes: s.document.notes.map((n) => (n.id === id ? { ...n, ...change } : n)) }),
  );
}

/** Moves a note to a frame; what it is about stays as long as it was, as far as the clip goes. */
export function moveNote({ id, from, to }: Note, frame: number): void {
  const last = bench().info.frames - 1;
  const start = Math.min(last, Math.max(0, frame));
  changeNote(id, { from: start, to: Math.min(last, start + to - from) });
}

export function removeNote(id: string): void {
  edit((s) => changeDocument(s, { notes: s.document.notes.filter((n) => n.id !== id) }));
}

/** To the next note after the frame that is shown, or the one before. */
export function nextNote(direction: 1 | -1): void {
  const { frame } = bench();
  const notes = inOrder(shotDocument().notes);
  const there = direction > 0 ? notes.find((n) => n.from > frame) : notes.findLast((n) => n.from < frame);
  if (there) goTo(there.from);
  else toast.info(notes.length === 0 ? 'There are no notes.' : `There is no note ${direction > 0 ? 'after' : 'before'} this frame.`, { id: 'note' }); // prettier-ignore
}

/** Notes of a file beside those that are there; of a timeline its range too. One step of undo. */
export async function takeNotesFile(file: File): Promise<void> {
  try {
    if (file.size > LARGEST)
      throw new Error(`${file.name} has ${Math.round(file.size / 1e6)} MB; files of notes are far smaller.`);
    const { notes, range, cuts } = readNotes(await file.text(), clock());
    const known = new Set(shotDocument().notes.map((n) => `${n.from} ${n.to} ${n.text}`));
    const fresh = notes.filter((n) => !known.has(`${n.from} ${n.to} ${n.text}`));
    const left = takeAll({ notes: fresh, range, cuts });
    const said = [
      `${plural(fresh.length - left, 'note')} from ${file.name}`,
      ...(notes.length > fresh.length ? [`${notes.length - fresh.length} were there already`] : []),
      ...(range ? [`in and out point on frames ${range.from} and ${range.to}`] : []),
      ...(cuts.length > 0 ? [plural(cuts.length, 'cut')] : []),
      ...(left > 0 ? [`${left} left out: a shot has room for ${LIMITS.notes}`] : []),
    ];
    toast.success(`${said.join('; ')}.`, { id: 'note' });
  } catch (error) {
    toast.error(`${file.name}: ${(error as Error).message}`, { id: 'note' });
  }
}

/** Adds notes and cuts, and sets the range where one is told. @returns how many notes there was no room for */
function takeAll({ notes, range, cuts }: NotesFile): number {
  let left = 0;
  edit((state) => {
    const room = LIMITS.notes - state.document.notes.length;
    left = Math.max(0, notes.length - room);
    const fresh = notes.slice(0, Math.max(0, room)).map((n) => ({ id: crypto.randomUUID(), ...n, text: n.text.slice(0, LIMITS.note) })); // prettier-ignore
    const noted = changeDocument(state, { notes: [...state.document.notes, ...fresh] });
    const cut = cuts.length > 0 ? addCuts(noted, cuts) : noted;
    return range ? setRange(setRange(cut, 'to', range.to), 'from', range.from) : cut;
  });
  return left;
}

export function saveNotes(): void {
  const csv = notesAsCsv(inOrder(shotDocument().notes), clock());
  keepFile(`${bench().clip.name} notes.csv`, new Blob([csv], { type: 'text/csv' }));
}
