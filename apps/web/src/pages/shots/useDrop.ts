import { useEffect, useRef, useState } from 'react';

/** Takes files that are dropped anywhere on the page. @returns true while some are held over it */
export function useDrop(onFiles: (files: FileList) => void): boolean {
  const [over, setOver] = useState(false);
  const latest = useRef(onFiles);
  useEffect(() => {
    latest.current = onFiles;
  });
  useEffect(() => {
    // Going from one element to another is told as entering the next before leaving the last.
    let depth = 0;
    const hasFiles = (e: DragEvent) => e.dataTransfer?.types.includes('Files') ?? false;
    const move = (by: number) => (e: DragEvent) => {
      if (!hasFiles(e)) return;
      depth += by;
      setOver(depth > 0);
    };
    const [enter, leave] = [move(1), move(-1)];
    const hover = (e: DragEvent) => hasFiles(e) && e.preventDefault();
    const drop = (e: DragEvent) => {
      if (!hasFiles(e)) return;
      e.preventDefault();
      depth = 0;
      setOver(false);
      latest.current(e.dataTransfer!.files);
    };
    const listeners = { dragenter: enter, dragleave: leave, dragover: hover, drop };
    for (const [name, listener] of Object.entries(listeners))
      document.addEventListener(name as 'drop', listener);
    return () => {
      for (const [name, listener] of Object.entries(listeners))
        document.removeEventListener(name as 'drop', listener);
    };
  }, []);
  return over;
}
