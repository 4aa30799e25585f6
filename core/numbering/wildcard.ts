/** Whether a text has wildcards. */
export const isWild = (text: string): boolean => /[*?]/.test(text);

/** A wildcard as an expression over names: `*` is any text, `?` any character. */
export const expressionOf = (wild: string): RegExp =>
  new RegExp(
    `^${wild
      .replace(/[.+^${}()|[\]\\]/g, '\\$&')
      .replace(/\*+/g, '.*')
      .replaceAll('?', '.')}$`,
  );
