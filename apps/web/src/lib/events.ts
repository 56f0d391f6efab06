import { useEffect, useRef } from 'react';
import type { ServerEvent } from '@lurn/model';

/** Calls back for every event of the server while the component is there; the browser reconnects by itself. */
export function useServerEvents(onEvent: (event: ServerEvent) => void): void {
  const latest = useRef(onEvent);
  useEffect(() => {
    latest.current = onEvent;
  });
  useEffect(() => {
    const source = new EventSource('/api/events');
    source.onmessage = ({ data }: MessageEvent<string>) => latest.current(JSON.parse(data) as ServerEvent);
    return () => source.close();
  }, []);
}
