/** What can be pressed at the end of the sentence. */
export const afterSentence = {
  fontFamily: 'inherit',
  fontSize: 15,
  fontWeight: 600,
  color: 'primary.main',
  verticalAlign: 'baseline',
  gap: 0.5,
  mr: 2,
} as const;
