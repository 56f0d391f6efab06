import { writeMaskFilm } from './mask-film.js';
import { serveThread } from './one-thing-thread.js';

/** The thread of {@link maskFilmInThread}. */
serveThread(writeMaskFilm);
