import { analyseClip } from './analyse.js';
import { serveThread } from './one-thing-thread.js';

/** The thread of {@link analyseInThread}. */
serveThread(analyseClip);
