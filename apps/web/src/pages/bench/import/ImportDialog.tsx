import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { spotsOf } from '@lurn/model';
import { bringIn, toldOf } from '../../../state/import-motion';
import { setBench } from '../../../state/bench';
import { takeImported } from '../../../state/repairs';
import { useShot } from '../../../state/shot';
import { ColumnChoice, TablePreview } from './ColumnChoice';
import { Upshot } from './Upshot';
import { useSampleFile } from './useSampleFile';

const close = () => setBench({ importing: false });

/** Brings spots in by columns, or motion as it is: what would come of it is shown before it is done. */
export function ImportDialog() {
  const dialog = useRef<HTMLDialogElement>(null);
  const known = useShot((s) => spotsOf(s.state.document));
  const { file, mapping, spots, fault, motion, reading, ...chosen } = useSampleFile();
  const [replace, setReplace] = useState(false);
  useEffect(() => dialog.current?.showModal(), []);
  const twins = spots?.filter((r) => known.some((s) => s.name === r.name)) ?? [];
  return (
    <dialog ref={dialog} className="modal" aria-label="Import" onClose={close}>
      <div className="modal-box max-w-2xl space-y-3 rounded-md">
        <h2 className="font-semibold">Import spots or motion</h2>
        <input
          type="file"
          className="file-input file-input-sm w-full"
          aria-label="File of samples"
          accept=".csv,.tsv,.txt,.json,.otio,.zip"
          onChange={(e) => void chosen.choose(e.target.files?.[0])}
        />
        {reading && (
          <p role="status" className="text-xs">
            Reading the maps …
          </p>
        )}
        {!file && !fault && !motion && !reading && (
          <p className="quiet text-xs">
            CSV or JSON with at least a frame, a place across and a place down, in pixels of the clip from its
            top left corner. Commas, semicolons or tabs; decimal commas are understood beside semicolons and
            tabs. Or a motion, movers or corners as they are handed over (CSV, JSON, OTIO), or a zip of ST
            maps: they become surfaces that are tracked already.
          </p>
        )}
        {file && mapping && (
          <>
            <ColumnChoice
              {...{ table: file.table, mapping, firstFrame: chosen.firstFrame }}
              onChange={chosen.setMapping}
              onFirstFrame={chosen.setFirstFrame}
            />
            <TablePreview table={file.table} mapping={mapping} />
          </>
        )}
        {fault && (
          <p role="alert" className="text-sm text-error">
            ▲ {fault} Nothing was imported.
          </p>
        )}
        {spots && <Upshot spots={spots} />}
        {motion && (
          <ul className="text-xs" aria-label="What will be imported">
            {toldOf(motion).map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        )}
        {twins.length > 0 && (
          <label className="flex items-center gap-2 text-xs">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={replace}
              onChange={(e) => setReplace(e.target.checked)}
            />
            Replace the samples of {twins.map((t) => `“${t.name}”`).join(', ')} instead of adding new spots
          </label>
        )}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            Close
          </button>
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={!spots && !motion}
            onClick={() => {
              if (motion) {
                try {
                  bringIn(motion);
                  toast.success(toldOf(motion).join('\n'), { id: 'import' });
                  close();
                } catch (error) {
                  toast.warning((error as Error).message, { id: 'import' });
                }
                return;
              }
              takeImported(spots!, replace);
              toast.success(
                `${spots!.length === 1 ? 'One spot' : `${spots!.length} spots`} imported from ${file!.name}.`,
              );
              close();
            }}
          >
            Import
          </button>
        </div>
      </div>
    </dialog>
  );
}
