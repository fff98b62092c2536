import { lazy } from "react";

type Page = () => React.ReactNode;

/**
 * A page whose code is fetched when it is first shown, or before by `fetch`. Code that is there already is shown at once: `lazy` alone would put
 * the fallback first, and React leaves a fallback in place for 0.3 s.
 */
export class PageCode {
  readonly #load: () => Promise<{ readonly default: Page }>;
  readonly #lazy: Page;
  #there: Page | undefined;
  #shown: Page | undefined;

  /** @param load - imports the module */
  constructor(load: () => Promise<{ readonly default: Page }>) {
    this.#load = load;
    this.#lazy = lazy(load) as unknown as Page;
  }

  /** Begins to fetch the code. What goes wrong is said when the page is shown. */
  fetch(): void {
    void this.#load().then(
      (m) => {
        this.#there = m.default;
      },
      () => undefined,
    );
  }

  /** The same each time once it was asked for: another component would lose what was typed into the page. */
  get component(): Page {
    this.#shown ??= this.#there ?? this.#lazy;
    return this.#shown;
  }
}

/** The page itself, within a `Suspense`. */
export function Show({ page }: { page: PageCode }) {
  const Component = page.component;
  return <Component />;
}
