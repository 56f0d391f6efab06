import { ChevronLeft, ChevronRight, Trash2 } from 'lucide-react';
import { useMemo, useRef } from 'react';
import { IconButton } from '../../../components/Tip';
import { goTo, useBenchParts } from '../../../state/bench';
import { cutHere } from '../../../state/cuts';
import { useKeyTip } from '../../../state/keymap';
import {
  beginNote,
  editNote,
  inOrder,
  nextNote,
  removeNote,
  saveNotes,
  takeNotesFile,
} from '../../../state/notes';
import { useShot } from '../../../state/shot';
import { Hint, Section } from './Section';

/** What the editor, or a file, says about frames. */
export function Notes() {
  const tip = useKeyTip();
  const chooser = useRef<HTMLInputElement>(null);
  const { frame } = useBenchParts('frame');
  const cuts = useShot((s) => s.state.document.cuts);
  const unordered = useShot((s) => s.state.document.notes);
  const notes = useMemo(() => inOrder(unordered), [unordered]);
  return (
    <Section title={notes.length > 0 ? `Notes: ${notes.length}` : 'Notes'}>
      <div className="flex items-center gap-1">
        <IconButton label="Note before" action="note-previous" onClick={() => nextNote(-1)}>
          <ChevronLeft size={15} />
        </IconButton>
        <IconButton label="Next note" action="note-next" onClick={() => nextNote(1)}>
          <ChevronRight size={15} />
        </IconButton>
        <button
          type="button"
          className="btn btn-xs grow"
          title={tip('On the frame that is shown, or the chosen stretch', 'note')}
          onClick={beginNote}
        >
          Write a note here
        </button>
        <button
          type="button"
          className="btn btn-xs"
          aria-pressed={cuts.includes(frame)}
          title={tip(
            'What is smoothed begins anew on the frame that is shown; press again to take it away',
            'cut',
          )}
          onClick={cutHere}
        >
          {cuts.includes(frame) ? 'Join here' : 'Cut here'}
        </button>
      </div>
      {notes.length > 0 && (
        <ul className="max-h-48 overflow-y-auto" aria-label="Notes">
          {notes.map((note) => (
            <li
              key={note.id}
              className={`flex items-center gap-1.5 ${note.from <= frame && frame <= note.to ? 'bg-base-300' : ''}`}
            >
              <button
                type="button"
                className="num quiet w-16 shrink-0 text-left text-xs hover:underline"
                aria-label={`To frame ${note.from}`}
                onClick={() => goTo(note.from)}
              >
                {note.from === note.to ? note.from : `${note.from}–${note.to}`}
              </button>
              <button
                type="button"
                className="min-w-0 grow truncate text-left text-xs hover:underline"
                title={`${note.text}\nPress to change it`}
                onClick={() => editNote(note)}
              >
                {note.text}
              </button>
              <IconButton label={`Delete the note on frame ${note.from}`} onClick={() => removeNote(note.id)}>
                <Trash2 size={13} />
              </IconButton>
            </li>
          ))}
        </ul>
      )}
      <div className="grid grid-cols-2 gap-1.5">
        <button type="button" className="btn btn-xs" onClick={() => chooser.current?.click()}>
          From a file …
        </button>
        <button type="button" className="btn btn-xs" disabled={notes.length === 0} onClick={saveNotes}>
          Save as CSV
        </button>
      </div>
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="File of notes"
        accept=".srt,.vtt,.csv,.tsv,.txt,.otio"
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          e.target.value = '';
          if (file) void takeNotesFile(file);
        }}
      />
      {notes.length === 0 && (
        <Hint>
          Notes lie on the ruler. A file may be subtitles (SRT, VTT), a table (CSV), or a timeline (OTIO),
          which sets in and out point and cuts too.
        </Hint>
      )}
    </Section>
  );
}
