import { bench, setBench, useBench } from './bench';

/** How long each of the two pictures is up: slow enough to see either, quick enough to see what differs. */
const UP_MS = 450;

/** Changes from one picture to the other and back while they are compared by blinking. */
export function keepBlinking(): () => void {
  let timer: ReturnType<typeof setInterval> | undefined;
  const follow = () => {
    clearInterval(timer);
    if (bench().layout === 'blink') timer = setInterval(() => setBench({ blinked: !bench().blinked }), UP_MS);
  };
  const forget = useBench.subscribe((now, before) => {
    if (now.layout !== before.layout) follow();
  });
  follow();
  return () => {
    forget();
    clearInterval(timer);
  };
}
