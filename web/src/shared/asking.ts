/** One question at a time before something that many will notice, and a while to take back what was done. */
import { ref, type Ref } from 'vue'

export interface Question {
  title: string
  /** What will happen, a sentence each. */
  lines: string[]
  yes: string
  danger?: boolean
  answer: (yes: boolean) => void
}
export const question: Ref<Question | null> = ref(null)

/** Ask before going on; true where somebody says yes. */
export function askFirst(asked: Omit<Question, 'answer'>): Promise<boolean> {
  question.value?.answer(false)
  return new Promise((resolve) => {
    question.value = {
      ...asked,
      answer: (yes) => {
        question.value = null
        resolve(yes)
      },
    }
  })
}

export interface Undone {
  text: string
  undo: () => Promise<void>
}
/** How long the last thing done can be taken back from wherever one is. */
const UNDO_MS = 60_000
export const undoable: Ref<Undone | null> = ref(null)
let timer = 0

/** Offer to take back what was just done, until something else is done or a minute is over. */
export function offerUndo(text: string, undo: () => Promise<void>): void {
  window.clearTimeout(timer)
  undoable.value = { text, undo }
  timer = window.setTimeout(() => (undoable.value = null), UNDO_MS)
}
export function dropUndo(): void {
  window.clearTimeout(timer)
  undoable.value = null
}
