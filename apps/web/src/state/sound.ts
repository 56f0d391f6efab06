import { toast } from 'sonner';
import { soundUrl } from '../lib/api';
import { bench, useBench } from './bench';

/** Farther than this from the picture, in seconds, the sound is put right. */
const APART = 0.08;

/** Plays the clip's sound in step with the picture at normal speed; at any other it is silent. */
export function keepSounding(): () => void {
  const { clip, info } = bench();
  if (!info.audio) return () => undefined;
  const audio = new Audio();
  audio.preload = 'auto';
  audio.src = soundUrl(clip.id);
  audio.onerror = () =>
    toast.info('The sound of this clip cannot be played here. The picture plays without it.', {
      id: 'sound',
    });
  const follow = () => {
    const { playing, speed, frame, times, muted } = bench();
    audio.muted = muted;
    if (!playing || speed !== 1) {
      if (!audio.paused) audio.pause();
      return;
    }
    const wanted = times[frame];
    if (Math.abs(audio.currentTime - wanted) > APART && !audio.seeking) audio.currentTime = wanted;
    // A browser that does not let the page sound before it was touched plays in silence.
    if (audio.paused) audio.play().catch(() => undefined);
  };
  const forget = useBench.subscribe((now, before) => {
    if (
      now.playing !== before.playing ||
      now.speed !== before.speed ||
      now.muted !== before.muted ||
      (now.playing && now.frame !== before.frame)
    )
      follow();
  });
  return () => {
    forget();
    audio.pause();
    audio.removeAttribute('src');
    audio.load();
  };
}
