import { run } from './run.js';

const stop = new AbortController();
process.once('SIGINT', () => stop.abort());
process.once('SIGTERM', () => stop.abort());
process.exitCode = await run(process.argv.slice(2), {
  signal: stop.signal,
  out: (text) => process.stdout.write(text),
  err: (text) => process.stderr.write(text),
  progress: process.stderr.isTTY ?? false,
});
