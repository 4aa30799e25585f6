import { TestEnvironment } from 'jest-environment-jsdom';

/** A page for tests of components: jsdom, with what every browser has and it lacks. */
export default class Page extends TestEnvironment {
  constructor(...args) {
    super(...args);
    // A page is somewhere else: `visit('http://127.0.0.1:4173/')`.
    this.global.visit = (url) => this.dom.reconfigure({ url });
    const { global } = this;
    /** A request whose address is taken from where the page is. */
    class PageRequest extends Request {
      constructor(input, init) {
        super(typeof input === 'string' ? new URL(input, global.location.href) : input, init);
      }
    }
    const shared = {
      TextEncoder,
      TextDecoder,
      structuredClone,
      fetch,
      Response,
      Headers,
      AbortController,
      AbortSignal,
    };
    Object.assign(global, { ...shared, Request: PageRequest });
    global.Blob.prototype.text ??= function () {
      return new Promise((done) => {
        const reader = new global.FileReader();
        reader.onload = () => done(reader.result);
        reader.readAsText(this);
      });
    };
    // Nothing is seen, and each call is kept with the colour that it was drawn in: `canvas.drawn`.
    global.HTMLCanvasElement.prototype.getContext = function () {
      const call = (name, ...given) => void this.drawn.push([name, this.context.fillStyle, ...given]);
      this.drawn = [];
      this.context ??= new Proxy({}, { get: (set, name) => (name in set ? set[name] : call.bind(null, name)) });
      return this.context;
    };
    global.PointerEvent ??= class extends global.MouseEvent {};
    global.Element.prototype.scrollIntoView = () => undefined;
    // Nobody asks for a dark scheme, or for less motion.
    this.global.matchMedia = (media) => ({ media, matches: false, addEventListener() {}, removeEventListener() {} });
    this.global.ResizeObserver = class {
      observe() {}
      unobserve() {}
      disconnect() {}
    };
  }
}
