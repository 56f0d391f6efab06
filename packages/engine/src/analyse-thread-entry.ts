import { analyseClip } from './analyse.js';
import { serveThread } from './one-thing-thread.js';
import { giveWay } from './threads.js';

/** The thread of {@link analyseInThread}. */
giveWay();
serveThread(analyseClip);
