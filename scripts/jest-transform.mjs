// Jest runs modules in a context whose globals are looked up through a trap, which makes numeric loops ten times slower.
// Each module gets the numeric globals as constants of its own; the line count stays as it is.
import swcJest from "@swc/jest";

const OWN = "const { Math, Number, Float64Array, Infinity, NaN } = globalThis;";
const options = (tsx) => ({
  jsc: {
    target: "es2022",
    parser: { syntax: "typescript", tsx },
    transform: { react: { runtime: "automatic" } },
  },
  module: { type: "es6" },
  sourceMaps: "inline",
});

// one deliberate change of one file, by scripts/mutants.ts
const mutant = process.env.MUTANT ? JSON.parse(process.env.MUTANT) : undefined;
const changed = (source, path) =>
  mutant && path === mutant.file
    ? source.slice(0, mutant.at) + mutant.to + source.slice(mutant.at + mutant.from.length)
    : source;

export default {
  createTransformer() {
    const [swc, swcX] = [false, true].map((tsx) => swcJest.createTransformer(options(tsx)));
    const by = (path) => (path.endsWith("x") ? swcX : swc);
    const own = (result) => ({ ...result, code: `${OWN}${result.code}` });
    return {
      ...swc,
      process: (source, path, ...more) => own(by(path).process(changed(source, path), path, ...more)),
      processAsync: async (source, path, ...more) =>
        own(await by(path).processAsync(changed(source, path), path, ...more)),
      getCacheKey: (...args) => `${swc.getCacheKey(...args)}own${process.env.MUTANT ?? ""}`,
    };
  },
};
