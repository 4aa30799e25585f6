// Makes TypeScript into what Jest runs, and holds the globals of hot loops in each module: Jest looks every `Math` up through the
// world that it gives a test file, which takes longer than most of what is done with it (a true peak: 73 s in place of 10).
import swc from '@swc/jest';

const held = [
  'Math',
  'Number',
  'Float32Array',
  'Float64Array',
  'Uint8Array',
  'Uint16Array',
  'Int16Array',
  'Int32Array',
];

export default {
  createTransformer(options) {
    const inner = swc.createTransformer(options);
    // On the first line, which then has the same number as before.
    const hold = (made) => {
      const names = held.filter((name) => new RegExp(`\\b${name}\\b`).test(made.code));
      return names.length === 0 ? made : { ...made, code: `const { ${names.join(', ')} } = globalThis; ${made.code}` };
    };
    return {
      canInstrument: inner.canInstrument,
      process: (...given) => hold(inner.process(...given)),
      processAsync: async (...given) => hold(await inner.processAsync(...given)),
      getCacheKey: (...given) => `${inner.getCacheKey(...given)}-${held.length}`,
    };
  },
};
