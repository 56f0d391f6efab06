import { TestEnvironment } from 'jest-environment-jsdom';

/** A page for tests, with what every browser has and jsdom has not. */
export default class Page extends TestEnvironment {
  async setup() {
    await super.setup();
    const { global: page } = this;
    Object.assign(page, {
      ...{ TextEncoder, TextDecoder, structuredClone, ReadableStream, Response, Request, Headers },
      matchMedia: () => ({ matches: false, addEventListener() {}, removeEventListener() {} }),
    });
    page.PointerEvent ??= class extends page.MouseEvent {
      constructor(type, init) {
        super(type, init);
        this.pointerId = init?.pointerId ?? 0;
      }
    };
    page.Element.prototype.scrollIntoView = () => undefined;
  }
}
