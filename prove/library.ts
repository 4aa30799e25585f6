import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';

/**
 * Does something with libraries that Shale does not use (OpenImageIO, PyAV, Pillow), in a process of theirs.
 * @param script beside this file @throws Error with what they said
 */
export function library<T>(script: string, task: object): Promise<T> {
  return new Promise((done, fail) => {
    const child = spawn('/usr/bin/python3', [fileURLToPath(new URL(script, import.meta.url))]);
    let [out, err] = ['', ''];
    child.stdout.setEncoding('utf8').on('data', (text: string) => (out += text));
    child.stderr.setEncoding('utf8').on('data', (text: string) => (err += text));
    child.once('error', fail);
    child.once('close', (code) => {
      if (code === 0) done(JSON.parse(out) as T);
      else fail(new Error(`${script} ended with ${code}: ${err.slice(-2000)}`));
    });
    child.stdin.end(JSON.stringify(task));
  });
}
