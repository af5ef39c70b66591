/** What the keyboard does on the marking page: pure, so that it can be tested without a page. */

export type Step = { kind: 'field'; index: number } | { kind: 'mark' }

/** After Enter in field `index` of `count`: the next field, or mark the call after the last. */
export function afterEnter(index: number, count: number): Step {
  return index + 1 < count ? { kind: 'field', index: index + 1 } : { kind: 'mark' }
}

/** The next call without marks after `position`, or null when the paper is done. */
export function nextCall(calls: { position: number; marks: unknown[] }[], position: number): number | null {
  const open = calls.filter((c) => c.marks.length === 0).map((c) => c.position)
  return open.find((p) => p > position) ?? open[0] ?? null
}

/** A verdict typed as one letter, shown whole. */
export function verdictWord(raw: string): string {
  const word = { l: 'low', r: 'right', h: 'high' }[raw.trim().toLowerCase()]
  return word ?? raw
}
