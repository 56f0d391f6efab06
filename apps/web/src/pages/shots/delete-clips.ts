import { toast } from 'sonner';
import type { ClipSummary } from '@lurn/model';
import { api, messageOf } from '../../lib/api';
import { plural } from '../../lib/format';

/** Deletes clips, and offers to have them back. */
export async function deleteClips(clips: readonly ClipSummary[], refresh: () => void): Promise<void> {
  const gone: ClipSummary[] = [];
  try {
    for (const clip of clips) {
      await api.deleteClip(clip.id);
      gone.push(clip);
    }
  } catch (error) {
    toast.error(messageOf(error));
  }
  refresh();
  if (gone.length === 0) return;
  const what = gone.length === 1 ? `"${gone[0].name}" is` : `${plural(gone.length, 'shot')} are`;
  const restore = () =>
    Promise.all(gone.map((c) => api.restoreClip(c.id)))
      .catch((error: unknown) => toast.error(messageOf(error)))
      .finally(refresh);
  toast(`${what} deleted.`, { duration: 12000, action: { label: 'Undo', onClick: () => void restore() } });
}
