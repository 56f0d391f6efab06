import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';

/** Compiles assembly/ to one module, and writes it as text: browser and Node.js take the same, and nothing is fetched. */
const here = fileURLToPath(new URL('.', import.meta.url));
const { error, binary, stderr } = await assemble();
if (error) {
  process.stderr.write(`${stderr}\n${error.message}\n`);
  process.exit(1);
}
const folder = join(here, 'src', 'generated');
mkdirSync(folder, { recursive: true });
const text = Buffer.from(binary)
  .toString('base64')
  .replace(/.{1,110}/g, "  '$&',\n");
write(
  join(folder, 'module.ts'),
  `/** Made by assemble.mjs from assembly/. */\nexport const MODULE = [\n${text}].join('');\n`,
);

async function assemble() {
  const written = {};
  const options = [
    '--optimizeLevel',
    '3',
    '--noAssert',
    '--converge',
    '--runtime',
    'stub',
    ...(process.env.NAMES ? ['--debug'] : []),
  ];
  const memory = ['--importMemory', '--sharedMemory', '--initialMemory', '1', '--maximumMemory', '65536'];
  const features = ['--enable', 'simd', '--enable', 'threads', '--enable', 'bulk-memory'];
  const result = await asc
    .main(['assembly/index.ts', '--outFile', 'kernels.wasm', ...options, ...memory, ...features], {
      writeFile: (name, contents) => void (written[name] = contents),
      baseDir: here,
    })
    .catch((error) => ({ error, stderr: '' }));
  return { error: result.error, stderr: String(result.stderr ?? ''), binary: written['kernels.wasm'] };
}

/** Left alone where nothing has changed: what is built from it stays as it is. */
function write(file, contents) {
  let present = '';
  try {
    present = readFileSync(file, 'utf8');
  } catch {
    // Not there yet.
  }
  if (present !== contents) writeFileSync(file, contents);
}
