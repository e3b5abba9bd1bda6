/** Figures in columns, set so that their points stand below each other. */

/** Longest tail in a column of cells, the point and the decimals; null when one of them is words: set to the left. */
export function tailOf(cells: string[]): number | null {
  return cells.every((cell) => /^[\d.]*$/.test(cell))
    ? Math.max(0, ...cells.map((cell) => cell.length - `${cell}.`.indexOf('.')))
    : null
}

/** A figure with blanks behind it, as many as its tail is shorter than the longest of its column. */
export function aligned(cell: string, tail: number | null | undefined): string {
  if (!cell || !tail) return cell
  return cell + '\u00a0'.repeat(tail - (cell.length - `${cell}.`.indexOf('.')))
}

/** A number as a meter can be read; a dash where there is none. */
export const read = (v: number | null | undefined, digits = 3) =>
  v === null || v === undefined ? '—' : String(Number(v.toPrecision(digits)))
