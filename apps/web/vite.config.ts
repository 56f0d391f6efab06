import { fileURLToPath } from 'node:url';
import react from '@vitejs/plugin-react';
import tailwind from '@tailwindcss/vite';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { defineConfig, type Plugin } from 'vite';

const source = (name: string) =>
  fileURLToPath(new URL(`../../packages/${name}/src/index.ts`, import.meta.url));

/** What finds faces and their points, with the package that runs it: it is served from here, and nothing is fetched. */
function faceModels(): Plugin {
  const folder = join(
    fileURLToPath(new URL('../../node_modules/@vladmandic/human', import.meta.url)),
    'models',
  );
  return {
    name: 'face-models',
    generateBundle() {
      for (const name of ['blazeface.json', 'blazeface.bin', 'facemesh.json', 'facemesh.bin'])
        this.emitFile({ type: 'asset', fileName: `faces/${name}`, source: readFileSync(join(folder, name)) });
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwind(), faceModels()],
  resolve: {
    alias: {
      '@lurn/kernels': source('kernels'),
      '@lurn/core': source('core'),
      '@lurn/model': source('model'),
      '@lurn/media': source('media'),
    },
  },
  worker: { format: 'es' },
  build: { target: 'es2022', chunkSizeWarningLimit: 1200 },
  server: { proxy: { '/api': 'http://127.0.0.1:4780' } },
});
