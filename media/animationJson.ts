import { HeaderFile } from './formats/headerFile.ts';

const isJson = /^(\xef\xbb\xbf)?\s*\{/;

/** Whether a JSON that begins so is a Lottie animation: by the words that its composition has to have (Lottie 1.0) and others seldom have together. */
export const isLottie = (head: string): boolean =>
  isJson.test(head) && ['fr', 'ip', 'w', 'h'].every((word) => head.includes(`"${word}"`));

/** Whether a JSON that begins so tells of a sprite sheet. */
export const isSheet = (head: string): boolean => isJson.test(head) && /"kind"\s*:\s*"sprite sheet"/.test(head);

/** Whether a file is an animation that a JSON tells of: no ending says so. False where it cannot be read. Loads no codec. */
export function isAnimationJson(path: string): boolean {
  if (!/\.json$/i.test(path)) return false;
  try {
    const file = new HeaderFile(path);
    try {
      const head = file.head.toString('latin1');
      return isLottie(head) || isSheet(head);
    } finally {
      file.close();
    }
  } catch {
    return false;
  }
}
