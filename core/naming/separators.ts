const separatorNames: Record<string, string> = {
  '.': 'a dot',
  _: 'an underscore',
  '-': 'a dash',
  ' ': 'a space',
  '': 'nothing',
};

/** `a dot`, `nothing`: how a separator is called. */
export const separatorWords = (separator: string): string => separatorNames[separator] ?? separator;
