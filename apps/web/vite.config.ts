import { fileURLToPath } from 'node:url';
import react from '@vitejs/plugin-react';
import tailwind from '@tailwindcss/vite';
import { readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { defaultClientConditions, defineConfig, type Plugin } from 'vite';

/** What finds faces and their points, with the package that runs it: it is served from here, and nothing is fetched. */
function faceModels(): Plugin {
  const inPackage = (path: string) => fileURLToPath(new URL(`../../node_modules/${path}`, import.meta.url));
  const [models, code] = ['@vladmandic/human/models', '@tensorflow/tfjs-backend-wasm/wasm-out'].map(
    inPackage,
  );
  const files = [
    ...['blazeface.json', 'blazeface.bin', 'facemesh.json', 'facemesh.bin'].map((name) => join(models, name)),
    ...['', '-simd'].map((kind) => join(code, `tfjs-backend-wasm${kind}.wasm`)),
  ];
  return {
    name: 'face-models',
    generateBundle() {
      for (const file of files)
        this.emitFile({ type: 'asset', fileName: `faces/${basename(file)}`, source: readFileSync(file) });
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwind(), faceModels()],
  resolve: {
    // Our own packages from their sources.
    conditions: ['source', ...defaultClientConditions],
  },
  worker: { format: 'es' },
  build: { target: 'es2022', chunkSizeWarningLimit: 1200 },
  server: { proxy: { '/api': 'http://127.0.0.1:4780' } },
});
