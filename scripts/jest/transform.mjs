import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import swcJest from '@swc/jest';

/** Takes a file's bundle where there is one (`bundles.mjs`), and the file by itself through swc where there is none. */
export function createTransformer(options) {
  const swc = swcJest.createTransformer(options);
  const bundleOf = (path, { config }) =>
    join(config.rootDir, '.cache/jest', relative(config.rootDir, path).replace(/\.tsx?$/, '.js'));
  return {
    ...swc,
    getCacheKey(source, path, given) {
      const bundle = bundleOf(path, given);
      if (!existsSync(bundle)) return swc.getCacheKey(source, path, given);
      return createHash('sha256').update(readFileSync(bundle)).digest('hex');
    },
    process(source, path, given) {
      const bundle = bundleOf(path, given);
      if (!existsSync(bundle)) return swc.process(source, path, given);
      return { code: readFileSync(bundle, 'utf8'), map: readFileSync(`${bundle}.map`, 'utf8') };
    },
  };
}
export default { createTransformer };
