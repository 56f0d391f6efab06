import { toast } from 'sonner';
import { changeDocument, type ClipSummary } from '@lurn/model';
import { api, messageOf } from '../../lib/api';
import { plural } from '../../lib/format';

/** What several shots are steadied towards: each as its own shot says, or all alike. */
export type BatchGoal = 'own' | 'still' | 'calm';

export const BATCH_GOALS: Readonly<Record<BatchGoal, string>> = {
  own: 'as each is set',
  still: 'Still',
  calm: 'Calm',
};

/** Gives shots a goal, without opening them, and queues a render of each, or of every delivery of each. What cannot be is told by name. */
export async function steadyClips(
  clips: readonly ClipSummary[],
  goal: BatchGoal,
  refresh: () => void,
): Promise<void> {
  let ordered = 0;
  const refused: string[] = [];
  for (const clip of clips) {
    try {
      if (clip.status !== 'ready') throw new Error('it has not been read yet.');
      const shot = await api.shot(clip.id);
      let { revision } = shot;
      if (goal !== 'own') {
        const { document } = changeDocument(shot, { goal: { ...shot.document.goal, goal, keys: [] } });
        ({ revision } = await api.saveShot(clip.id, { revision, document, measured: {} }));
      }
      // As each is set, all that it is to deliver is made; given a goal, the first alone.
      const { deliveries } = shot.document;
      for (const { id, settings } of goal === 'own' ? deliveries : deliveries.slice(0, 1)) {
        await api.render(clip.id, revision, settings.crf, id);
        ordered++;
      }
    } catch (error) {
      refused.push(`"${clip.name}": ${messageOf(error)}`);
    }
  }
  refresh();
  if (ordered > 0) toast.success(`${plural(ordered, 'render')} queued. Files appear on their cards.`);
  if (refused.length > 0) {
    const more = refused.length > 3 ? ` … and ${refused.length - 3} more.` : '';
    toast.error(`Not steadied: ${refused.slice(0, 3).join(' ')}${more}`, { duration: 12_000 });
  }
}
