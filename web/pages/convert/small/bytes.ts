/** Bytes in units of 1,000, as limits are mostly said: `1.94 MB`, `256 KB`, `980 B`. @param digits behind the point of MB */
export function decimalBytes(bytes: number, digits = 2): string {
  if (bytes >= 999_500) return `${(bytes / 1e6).toFixed(digits)} MB`;
  if (bytes >= 1000) return `${(bytes / 1000).toFixed(bytes < 99_950 && digits > 0 ? 1 : 0)} KB`;
  return `${Math.round(bytes)} B`;
}
