import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { build, checkNode, install, root } from './steps.mjs';

/** `npm run worker`: installs, builds and starts a worker that renders parts for a server on this or another machine. */
checkNode();
await install();
await build();
const worker = spawn(process.execPath, [join(root, 'apps/server/dist/bundled/worker-main.js')], {
  cwd: root,
  stdio: 'inherit',
  env: { LURN_DATA: join(root, 'worker-data'), ...process.env },
});
// Ctrl-C reaches the worker too; it is given the time to end well.
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => worker.kill(signal));
worker.on('close', (status, signal) => process.exit(signal ? 0 : (status ?? 0)));
