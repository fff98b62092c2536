// jsdom with what a browser has of its own and jsdom lacks: for tests of components.
import { TestEnvironment } from "jest-environment-jsdom";

const MISSING = { TextEncoder, TextDecoder, fetch, Request, Response, Headers, structuredClone };

export default class Browser extends TestEnvironment {
  async setup() {
    await super.setup();
    for (const [name, value] of Object.entries(MISSING)) this.global[name] ??= value;
    this.global.matchMedia ??= (media) => ({ matches: false, media });
    this.global.ResizeObserver ??= class {
      observe() {}
      unobserve() {}
      disconnect() {}
    };
    this.global.Element.prototype.scrollIntoView ??= () => undefined;
  }
}
