import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { build, checkNode, install, root } from './steps.mjs';

/** `npm run demo`: installs, builds and starts Lurn with the demo shots; the second start takes seconds. */
checkNode();
await install();
await build();
const server = spawn(process.execPath, [join(root, 'apps/server/dist/bundled/main.js')], {
  cwd: root,
  stdio: 'inherit',
  env: { LURN_DATA: join(root, 'data'), LURN_DEMO: join(root, 'demo/shots'), ...process.env },
});
// Ctrl-C reaches the server too; it is given the time to end well.
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('close', (status, signal) => process.exit(signal ? 0 : (status ?? 0)));
