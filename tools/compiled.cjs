// Runs a bundled program by what the engine compiled of it the last time: of a megabyte of source most is never run, and reading it
// through takes longer than the work of a short command.
const { readFileSync, renameSync, rmSync, writeFileSync } = require('node:fs');
const { wrap } = require('node:module');
const { dirname } = require('node:path');
const { Script } = require('node:vm');

/** When a program that goes on is taken to have run what it runs, milliseconds. */
const settled = 1500;

/** What is to be done once a package is there, by its name. */
const waiting = new Map();

/** A package that is loaded when the first thing of it is asked for. */
function late(name, load) {
  let loaded;
  const get = (_, key) => {
    if (!loaded) {
      loaded = load();
      waiting.get(name)?.();
      waiting.delete(name);
    }
    return loaded[key];
  };
  return new Proxy({}, { get });
}

function read(path) {
  try {
    return readFileSync(path);
  } catch {
    return undefined;
  }
}

/** Keeps what is compiled by now; on a full disk, or where another does the same, nothing is lost. */
function keep(script, path) {
  const temporary = `${path}.${process.pid}.part`;
  try {
    writeFileSync(temporary, script.createCachedData());
    renameSync(temporary, path);
  } catch {
    rmSync(temporary, { force: true });
  }
}

/** Runs a bundle. @param {string} path */
exports.run = (path, require, module) => {
  // Each command of the command line runs other parts.
  const command = /^[a-z]{2,12}$/.test(process.argv[2] ?? '') ? process.argv[2] : 'any';
  const compiled = `${path}.${command}.compiled`;
  const script = new Script(wrap(readFileSync(path, 'utf8')), {
    filename: path,
    cachedData: read(compiled),
  });
  Object.assign(globalThis, { loadLate: late, onceLoaded: (name, work) => waiting.set(name, work) });
  if (script.cachedDataRejected !== false) {
    let kept = false;
    const once = () => {
      if (!kept) keep(script, compiled);
      kept = true;
    };
    setTimeout(once, settled).unref();
    // A command that there is not ends with an error, and nothing is kept under its name.
    process.once('exit', (code) => code === 0 && once());
  }
  script.runInThisContext()(module.exports, require, module, path, dirname(path));
};
