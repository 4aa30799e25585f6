import { TestEnvironment } from 'jest-environment-jsdom';

/** A page for tests of components: jsdom, with what every browser has and it lacks. */
export default class Page extends TestEnvironment {
  constructor(...args) {
    super(...args);
    // A page is somewhere else: `visit('http://127.0.0.1:4173/')`.
    this.global.visit = (url) => this.dom.reconfigure({ url });
    Object.assign(this.global, { TextEncoder, TextDecoder, structuredClone, fetch, Request, Response, Headers });
    // Nobody asks for a dark scheme, or for less motion.
    this.global.matchMedia = (media) => ({ media, matches: false, addEventListener() {}, removeEventListener() {} });
    this.global.ResizeObserver = class {
      observe() {}
      unobserve() {}
      disconnect() {}
    };
  }
}
