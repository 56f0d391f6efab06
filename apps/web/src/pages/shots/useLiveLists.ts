import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import type { ClipSummary, QueueSummary, ServerEvent } from '@lurn/model';
import { api } from '../../lib/api';
import { useServerEvents } from '../../lib/events';
import { clipsWith, queueWith } from '../../lib/queue';
import { tellDone } from '../../state/notice';

/**
 * Keeps the lists of shots and renders as the server has them. What is told of a render that goes on is put into them:
 * they are asked for anew only where something begins or ends.
 *
 * @returns how many renders run or wait
 */
export function useLiveLists(): number {
  const client = useQueryClient();
  const ask = (key: string) => void client.invalidateQueries({ queryKey: [key] });
  useServerEvents((event: ServerEvent) => {
    if (event.kind === 'workers') return ask('queue');
    if (event.kind !== 'render') {
      // The one that it is about, not all of them; one that is new or gone changes the list.
      const known = client.getQueryData<ClipSummary[]>(['clips']);
      if (!known?.some((c) => c.id === event.id)) return ask('clips');
      api.clip(event.id).then(
        (clip) =>
          client.setQueryData<ClipSummary[]>(['clips'], (list) =>
            list?.map((c) => (c.id === clip.id ? clip : c)),
          ),
        () => ask('clips'),
      );
      return;
    }
    const { render } = event;
    const clips = client.getQueryData<ClipSummary[]>(['clips']);
    const withIt = clips && clipsWith(clips, render);
    if (withIt) client.setQueryData(['clips'], withIt);
    else ask('clips');
    const queue = client.getQueryData<QueueSummary>(['queue']);
    const inQueue = queue && queueWith(queue, render);
    if (inQueue) client.setQueryData(['queue'], inQueue);
    else ask('queue');
  });
  const clips = client.getQueryData<ClipSummary[]>(['clips']) ?? [];
  const all = clips.flatMap((c) => c.renders);
  const live = all.filter((r) => r.status === 'running' || r.status === 'waiting').length;
  const before = useRef(0);
  useEffect(() => {
    if (before.current > 0 && live === 0) tellDone('All renders have ended.');
    before.current = live;
  });
  return live;
}
