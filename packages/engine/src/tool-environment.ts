import { join } from 'node:path';

/** Where no web server is: a request that a tool would make, against all that it is told, leads nowhere. */
const NO_PROXY = 'http://127.0.0.1:9';

/**
 * What a tool's process is given: no way to the network, and, for the builds inside the npm packages, none to the
 * machine's text conversion modules. Those builds are static: where a text has to be converted (the service name of a
 * transport stream) they load these modules, which crash them; without them they leave such texts as they are.
 */
export function toolEnvironment(path: string): NodeJS.ProcessEnv {
  const shipped = path.includes(join('node_modules', '@ff'));
  const env = { ...process.env, http_proxy: NO_PROXY, https_proxy: NO_PROXY, no_proxy: '' };
  return shipped ? { ...env, GCONV_PATH: join(path, 'none') } : env;
}
