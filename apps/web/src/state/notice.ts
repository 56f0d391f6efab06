import { create } from 'zustand';
import { persist } from 'zustand/middleware';

interface Notice {
  readonly on: boolean;
  readonly set: (on: boolean) => void;
}

/** Whether it is told, with a tone and a notice of the browser, when all renders are done. */
export const useNotice = create<Notice>()(
  persist(
    (set) => ({
      on: false,
      set: (on) => {
        set({ on });
        if (on && 'Notification' in window && Notification.permission === 'default')
          void Notification.requestPermission();
      },
    }),
    { name: 'lurn.notice' },
  ),
);

/** Says that renders are done, as loudly as was asked. */
export function tellDone(text: string): void {
  if (!useNotice.getState().on) return;
  if ('Notification' in window && Notification.permission === 'granted')
    new Notification('Lurn', { body: text });
  tones();
}

/** Two short tones, a fifth apart. */
function tones(): void {
  const context = new AudioContext();
  [440, 660].forEach((frequency, i) => {
    const tone = new OscillatorNode(context, { frequency });
    const volume = new GainNode(context, { gain: 0.08 });
    tone.connect(volume).connect(context.destination);
    tone.start(context.currentTime + 0.18 * i);
    tone.stop(context.currentTime + 0.18 * i + 0.14);
    if (i === 1) tone.onended = () => void context.close();
  });
}
