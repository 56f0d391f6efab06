import { X } from 'lucide-react';
import { IconButton } from '../../components/Tip';
import { bytes } from '../../lib/format';
import type { UploadItem } from './useUploads';

/** Files that are on their way to the server. */
export function Uploads({
  items,
  onRemove,
}: {
  readonly items: readonly UploadItem[];
  readonly onRemove: (key: string) => void;
}) {
  return (
    <ul className="mb-4 space-y-2 empty:hidden" aria-label="Uploads" aria-live="polite">
      {items.map((u) => (
        <li key={u.key} className="rule flex items-center gap-3 border-b pb-2">
          <span className="w-64 truncate">{u.name}</span>
          {u.error ? (
            <span className="grow text-error">▲ {u.error}</span>
          ) : (
            <>
              <progress
                className="progress progress-primary grow"
                value={u.sent}
                max={u.total}
                aria-label={`Upload of ${u.name}`}
              />
              <span className="num quiet w-40 text-right text-xs">
                {bytes(u.sent)} of {bytes(u.total)}
              </span>
            </>
          )}
          <IconButton label={u.error ? 'Close' : 'Stop the upload'} onClick={() => onRemove(u.key)}>
            <X size={14} />
          </IconButton>
        </li>
      ))}
    </ul>
  );
}
