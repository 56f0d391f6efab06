import base from './playwright.config.js';

/** `npm run screenshots`: one current picture of each main view, from the demo shots, into docs/screenshots. */
export default { ...base, projects: undefined, testMatch: 'screenshots.ts' };
