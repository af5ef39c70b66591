/** Something that can be picked: `also` are everyday names to find it by. */
export interface Findable {
  id: string
  label: string
  also?: readonly string[]
}

const plain = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9.]+/g, ' ')
    .trim()

/** How well a row fits what was typed, 0 best, or null: by its whole name, its beginning, any part, an everyday name. */
function fit(row: Findable, wanted: string, words: string[]): number | null {
  const label = plain(row.label)
  const also = row.also ?? []
  if (label === wanted || also.includes(wanted)) return 0
  if (label.startsWith(wanted)) return 1
  if (also.some((name) => name.startsWith(wanted))) return 2
  if (words.every((w) => label.includes(w))) return 3
  if (also.some((name) => words.every((w) => name.includes(w)))) return 4
  // words of several of its names: "r22 piston"
  const all = [label, plain(row.id), ...also].join(' ')
  return words.every((w) => all.includes(w)) ? 5 : null
}

/** The rows that fit what was typed, the best first; all of them as they stand where nothing was. */
export function finding<T extends Findable>(rows: readonly T[], typed: string): T[] {
  const wanted = plain(typed)
  if (!wanted) return [...rows]
  const words = wanted.split(' ')
  return rows
    .map((row, i) => ({ row, i, at: fit(row, wanted, words) }))
    .filter((x): x is { row: T; i: number; at: number } => x.at !== null)
    .sort((a, b) => a.at - b.at || a.i - b.i)
    .map((x) => x.row)
}
