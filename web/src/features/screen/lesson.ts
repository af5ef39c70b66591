/** What a lesson is made of on its three screens: the instructor's, the class's and each student's. */
import { computed, onBeforeUnmount, onMounted, type ComputedRef, type Ref } from 'vue'
import type { Schemas } from '@/api/client'

export type Lesson = Schemas['LessonShown']
export type LessonVote = Schemas['LessonVote']

const EVERY_MS = 1500

/** Look again and again while the page is there; one look at a time. */
export function useLooking(look: () => Promise<void>, every = EVERY_MS): void {
  let timer = 0
  let over = false
  async function turn(): Promise<void> {
    await look()
    if (!over) timer = window.setTimeout(() => void turn(), every)
  }
  onMounted(() => void turn())
  onBeforeUnmount(() => {
    over = true
    window.clearTimeout(timer)
  })
}

const WRITTEN = ['answer', 'proof', 'name']

export interface Seen {
  looks: ComputedRef<Record<string, string>>
  tests: ComputedRef<{ name: string; said: string }[]>
  /** Gauges with their needles. */
  dials: ComputedRef<{ point: string; drawing: Schemas['Dial']; read: string }[]>
  digits: ComputedRef<{ label: string; text: string }[]>
  /** The newest step that the machine answered. */
  last: ComputedRef<Schemas['ScreenStepOut'] | null>
  gauges: ComputedRef<boolean>
}

/** What a class has seen of its machine by now. */
export function useSeen(lesson: Ref<Lesson>): Seen {
  const steps = computed(() => lesson.value.steps.filter((s) => !s.refused))
  const said = (kind: string, key: string) =>
    Object.fromEntries(steps.value.filter((s) => s.kind === kind).map((s) => [s.data[key] as string, s.said.join(' ')]))
  const readings = computed(() => {
    const newest = new Map<string, Record<string, unknown>>()
    for (const s of steps.value) if (s.kind === 'read' && s.reading) newest.set(s.data.point as string, s.reading)
    return [...newest]
  })
  return {
    looks: computed(() => said('look', 'check')),
    tests: computed(() =>
      Object.entries(said('test', 'test')).map(([id, text]) => ({
        name: lesson.value.tests.find((t) => t.id === id)?.name ?? id,
        said: text,
      })),
    ),
    dials: computed(() =>
      readings.value.flatMap(([point, r]) => {
        const face = lesson.value.dials.find((d) => d.side === r.side)
        if (!face || typeof r.needle_deg !== 'number') return []
        const drawing = { ...face, needle_deg: r.needle_deg, text: `: ${String(r.spoken)}` }
        return [{ point, drawing, read: lesson.value.read_off[point] ?? '' }]
      }),
    ),
    digits: computed(() =>
      readings.value.flatMap(([point, r]) =>
        typeof r.text === 'string'
          ? [{ label: lesson.value.points.find((p) => p.point === point)?.label ?? point, text: r.text }]
          : [],
      ),
    ),
    last: computed(() => lesson.value.steps.filter((s) => !WRITTEN.includes(s.kind)).at(-1) ?? null),
    gauges: computed(() => {
      const g = steps.value.filter((s) => s.kind === 'gauges').at(-1)
      return g !== undefined && (g.data.low !== 'off' || g.data.high !== 'off')
    }),
  }
}

/** Choices under the groups they are listed in. */
export function grouped(choices: readonly Schemas['LessonChoice'][]): [string, Schemas['LessonChoice'][]][] {
  const names = [...new Set(choices.map((c) => c.group))]
  return names.map((name) => [name, choices.filter((c) => c.group === name)])
}

/** Choices as rows of a list: a line can be looked at and read, so each says which. */
export function rows(choices: readonly Schemas['LessonChoice'][]): { id: string; label: string; group: string }[] {
  return choices.map((c) => ({
    id: c.id,
    group: c.group || 'Name it',
    label: c.group ? `${c.group}: ${c.text}` : c.text,
  }))
}
