/** What a finding may be, by its code, as a filter calls it. */
export const findingWords = {
  'missing-frames': 'Missing frames',
  'mixed-padding': 'Mixed padding',
  'mixed-names': 'Inconsistent spelling',
  'duplicate-number': 'Duplicate numbers',
  'listing-order': 'Unpadded numbers',
  'hexadecimal-numbers': 'Hexadecimal numbers',
  'texture-tiles': 'Texture tiles',
  'empty-file': 'Empty files',
  'truncated-file': 'Cut short',
  'damaged-file': 'Damaged',
  'unknown-format': 'Unknown format',
  'format-not-read': 'Not read by this version',
  'not-allowed': 'No permission to read',
  'file-gone': 'Missing since the scan',
  unreadable: 'Cannot be read',
  'size-outlier': 'Unusual file sizes',
  'mixed-size': 'Mixed picture sizes',
  'mixed-depth': 'Mixed bit depths',
  'mixed-format': 'Mixed formats',
  'mixed-channels': 'Mixed channels',
  'stale-frames': 'Another render mixed in',
  'repeated-frames': 'Repeated frames',
  'stray-files': 'Drafts and strays',
  'still-writing': 'Still being written',
  'count-mismatch': 'Count and length differ',
  'rate-conflict': 'Two rates are stated',
  'older-version': 'Older versions',
  'cut-short': 'Clips cut short',
  'size-changes': 'Clips whose size changes',
  'missing-pictures': 'Clips with missing pictures',
  'variable-rate': 'Variable rate',
  pulldown: '3:2 pulldown',
  interlaced: 'Interlaced',
  turned: 'Turned clips',
} as const;
export type FindingCode = keyof typeof findingWords;
export const findingCodes = Object.keys(findingWords) as [FindingCode, ...FindingCode[]];

/** Findings of files that hold no picture that could be read. */
export const damageCodes: ReadonlySet<FindingCode> = new Set([
  'empty-file',
  'truncated-file',
  'damaged-file',
  'unknown-format',
  'unreadable',
]);

export const isFindingCode = (code: string): code is FindingCode => Object.hasOwn(findingWords, code);

/** The finding that a file which cannot be read makes, by the code of the problem that it gave. */
export const findingOfProblem = (code: string): FindingCode => (isFindingCode(code) ? code : 'unreadable');
