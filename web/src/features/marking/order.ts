/** What the keyboard does on the marking page: pure, so that it can be tested without a page. */

export type Step = { kind: 'field'; index: number } | { kind: 'mark' }

/** After Enter in field `index` of `count`: the next field, or mark the call after the last. */
export function afterEnter(index: number, count: number): Step {
  return index + 1 < count ? { kind: 'field', index: index + 1 } : { kind: 'mark' }
}

/** The next call without marks after `position`, or null when the paper is done; what waits for a rig counts once it is answered. */
export function nextCall(
  calls: { position: number; marks: unknown[]; waits?: boolean; answered?: boolean }[],
  position: number,
): number | null {
  const open = calls.filter((c) => (c.waits ? !c.answered : c.marks.length === 0)).map((c) => c.position)
  return open.find((p) => p > position) ?? open[0] ?? null
}

const VERDICTS: Record<string, string> = { l: 'low', n: 'normal', r: 'normal', h: 'high' }
const CHANGES: Record<string, string> = { d: 'down', s: 'same', u: 'up' }

/** A verdict or a change typed as one letter, shown whole. */
export function verdictWord(raw: string, kind = 'verdict'): string {
  const words = kind === 'change' ? CHANGES : VERDICTS
  return words[raw.trim().toLowerCase()] ?? raw
}

export type Command =
  | { kind: 'key' }
  | { kind: 'mark' }
  | { kind: 'confirm' }
  | { kind: 'unknown'; text: string }
  | { kind: 'set'; number: number; value: string }
  | { kind: 'own'; number: number; points: number | null; reason: string }

/** One line of the marker: nothing marks, "k" takes all as key, "9 h" says what differs at 9, "9 ." that it is blank,
 * "c" confirms what is suggested for free text, "9 !1 because" is an own mark with its reason, "9 !" goes back to the rubric. */
export function command(line: string): Command {
  const text = line.trim()
  if (!text) return { kind: 'mark' }
  if (/^k$/i.test(text)) return { kind: 'key' }
  if (/^c$/i.test(text)) return { kind: 'confirm' }
  const own = /^(\d{1,2})\s*!\s*(?:(\d{1,2})\s+(.+))?$/.exec(text)
  if (own)
    return {
      kind: 'own',
      number: Number(own[1]),
      points: own[2] === undefined ? null : Number(own[2]),
      reason: own[3] ?? '',
    }
  const found = /^(\d{1,2})\s*[\s=:]\s*([^!].*)$/.exec(text)
  if (!found) return { kind: 'unknown', text }
  const value = (found[2] ?? '').trim()
  return { kind: 'set', number: Number(found[1]), value: value === '.' ? '' : value }
}

/** Answers that differ from what the server holds; of a call nobody has marked yet all of them, so that blanks are marked too. */
export function toSend(
  questions: { id: string; raw: string }[],
  answers: Record<string, string>,
  marked: boolean,
): Record<string, string> {
  return Object.fromEntries(
    questions.filter((q) => !marked || (answers[q.id] ?? '') !== q.raw).map((q) => [q.id, answers[q.id] ?? '']),
  )
}
