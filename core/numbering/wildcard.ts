/** Whether a text has wildcards. */
export const isWild = (text: string): boolean => /[*?]/.test(text);

/** A text as it stands within an expression. */
export const literally = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** A wildcard as an expression over names: `*` is any text, `?` any character. */
export const expressionOf = (wild: string): RegExp =>
  new RegExp(
    `^${literally(wild)
      .replace(/(\\\*)+/g, '.*')
      .replaceAll('\\?', '.')}$`,
  );
