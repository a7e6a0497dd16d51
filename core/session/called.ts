// Rows found by what a person calls them.
type Called = { readonly id: string; readonly name: string };

/**
 * The rows that a name means: those called exactly so, else the one with this id, else those called so in whatever case; spaces around it
 * do not count. More than one only where they share a name.
 * @example called([{ id: 'a', name: 'Vox' }, { id: 'b', name: 'VOX' }], 'VOX') // the second; 'vox' means both
 */
export function called<T extends Called>(rows: Iterable<T>, name: string): T[] {
  const all = [...rows];
  const wanted = name.trim();
  const exact = all.filter((row) => row.name === wanted);
  if (exact.length) return exact;
  const own = all.filter((row) => row.id === wanted);
  return own.length ? own : all.filter((row) => row.name.toLowerCase() === wanted.toLowerCase());
}
