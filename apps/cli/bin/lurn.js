#!/usr/bin/env node
import('../dist/bundled/main.js').catch((error) => {
  const unbuilt = error?.code === 'ERR_MODULE_NOT_FOUND';
  process.stderr.write(
    unbuilt ? 'lurn is not built yet: run "npm run build" first.\n' : `${error?.stack ?? error}\n`,
  );
  process.exitCode = 3;
});
