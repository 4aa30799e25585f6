/**
 * A folder for the results of many sources that keeps their names apart with as little as that needs: null where stems do already,
 * `{folder}`, or the whole way to each.
 */
export function folderApart(sources: readonly { folder: string; name: string }[]): string | null {
  const distinct = (values: readonly string[]) => new Set(values).size === values.length;
  if (distinct(sources.map(({ name }) => name.replace(/[._-]*#+.*$/, '')))) return null;
  return distinct(sources.map(({ folder }) => folder.split('/').pop()!)) ? '{folder}' : '{path}/{stem}';
}
