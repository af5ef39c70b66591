import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { gathered } from '@/features/bench/loop'
import { named, typing } from '@/features/bench/shortcuts'
import { useUndo } from '@/features/bench/undo'
import { choices, EVERYTHING, found, read } from '@/features/library/find'
import { spark } from '@/features/reference/spark'
import { latest } from '@/shared/latest'

describe('one call at a time', () => {
  it('drops what is overtaken while one runs, and the last value wins', async () => {
    const done: number[] = []
    const open: (() => void)[] = []
    const queue = latest<number>(
      (n) =>
        new Promise((resolve) =>
          open.push(() => {
            done.push(n)
            resolve()
          }),
        ),
    )
    for (const n of [1, 2, 3, 4]) queue.push(n)
    expect(open.length).toBe(1)
    open[0]?.()
    await nextTick()
    await nextTick()
    open[1]?.()
    await nextTick()
    await nextTick()
    expect(done).toEqual([1, 4])
    expect(queue.idle()).toBe(true)
  })
  it('goes on after a call that failed', async () => {
    const seen: number[] = []
    const queue = latest<number>(async (n) => {
      seen.push(n)
      if (n === 1) throw new Error('no')
    })
    const failed: unknown[] = []
    process.once('unhandledRejection', (reason) => failed.push(reason))
    queue.push(1)
    queue.push(2)
    await flushPromises()
    expect(seen).toEqual([1, 2])
    expect(failed.map(String)).toEqual(['Error: no'])
  })
})

describe('undo', () => {
  it('takes a pull on a slider as one step and a new change forgets what was undone', async () => {
    const state = ref({ depth: 0 })
    const undo = useUndo(state)
    for (const depth of [1, 2, 3]) {
      state.value.depth = depth
      await nextTick()
      vi.advanceTimersByTime(100)
    }
    vi.advanceTimersByTime(400)
    undo.undo()
    await nextTick()
    expect(state.value.depth).toBe(0)
    expect(undo.canRedo.value).toBe(true)
    undo.redo()
    await nextTick()
    expect(state.value.depth).toBe(3)
    undo.undo()
    await nextTick()
    state.value.depth = 9
    await nextTick()
    vi.advanceTimersByTime(400)
    expect(undo.canRedo.value).toBe(false)
    undo.undo()
    expect(state.value.depth).toBe(0)
  })
  it('keeps two acts apart when the first is settled before the second', async () => {
    const state = ref<string[]>([])
    const undo = useUndo(state)
    undo.settle()
    state.value = ['a']
    undo.settle()
    state.value = ['a', 'b']
    undo.undo()
    expect(state.value).toEqual(['a'])
  })
})

describe('keys', () => {
  const press = (key: string, more = {}) =>
    named({ key, shiftKey: false, ctrlKey: false, metaKey: false, altKey: false, ...more })
  it('are named as the list writes them', () => {
    expect([
      press('z'),
      press('Z', { shiftKey: true }),
      press('z', { ctrlKey: true }),
      press('z', { metaKey: true, shiftKey: true }),
      press('?', { shiftKey: true }),
      press('Enter'),
      press('z', { altKey: true }),
    ]).toEqual(['z', 'Shift+Z', 'Ctrl+Z', 'Ctrl+Shift+Z', '?', '', ''])
  })
  it('belong to the field one types in', () => {
    document.body.innerHTML =
      '<input id="a"><input id="b" type="range"><button id="c"></button><textarea id="d"></textarea>'
    expect(['a', 'b', 'c', 'd'].map((id) => typing(document.getElementById(id)))).toEqual([true, false, false, true])
  })
})

const row = (title: string, more = {}) =>
  ({
    title,
    fault_name: 'Undercharge',
    machine_name: 'Larkspur 36',
    owner: 'Maren',
    tags: [],
    level: 2,
    mine: true,
    shared: false,
    body: { faults: [{ id: 'undercharge' }], complaint: '' },
    ...more,
  }) as never
describe('the library', () => {
  const rows = [
    row('Runs all afternoon', { tags: ['charge', 'week 9'] }),
    row('Sound one', { level: 3, fault_name: 'Sound machine', body: { faults: [], complaint: 'Neighbour worries' } }),
    row('Theirs', { mine: false, shared: true, machine_name: 'Sedge 11' }),
  ]
  const titles = (wanted: object) => found(rows, { ...EVERYTHING, ...wanted }).map((r) => r.title)
  it('finds words in any order, in the story too', () => {
    expect(titles({ text: 'week AFTERNOON' })).toEqual(['Runs all afternoon'])
    expect(titles({ text: 'neighbour' })).toEqual(['Sound one'])
    expect(titles({ text: 'nowhere' })).toEqual([])
  })
  it('narrows by tag, level, fault, machine and owner', () => {
    expect(titles({ tag: 'charge' })).toEqual(['Runs all afternoon'])
    expect(titles({ level: '3' })).toEqual(['Sound one'])
    expect(titles({ fault: 'none' })).toEqual(['Sound one'])
    expect(titles({ fault: 'undercharge', whose: 'shared' })).toEqual(['Theirs'])
    expect(titles({ machine: 'Sedge 11', whose: 'mine' })).toEqual([])
    expect(choices(rows, (r) => r.tags)).toEqual(['charge', 'week 9'])
  })
  it('reads one scenario, a list, or a pack, and says what is wrong with anything else', () => {
    expect(read('a', '{"title":"x"}')).toEqual([{ title: 'x' }])
    expect(read('a', '[{"title":"x"},{"title":"y"}]').length).toBe(2)
    expect(read('a', '{"scenarios":[{"title":"x"}]}')).toEqual([{ title: 'x' }])
    expect(() => read('notes.json', 'hello')).toThrow('notes.json is not JSON')
    expect(() => read('a', '[1]')).toThrow('holds no scenario')
    expect(() => read('a', 'null')).toThrow('holds no scenario')
  })
})

describe('small pictures', () => {
  const corner = (enthalpy: number, pressure: number) => ({ id: '', label: '', reading: null, enthalpy, pressure })
  it('gather corners that stand on one another', () => {
    const loop = [
      corner(187, 147),
      corner(204, 423),
      corner(123, 423),
      corner(123, 422),
      corner(123, 420),
      corner(123, 151),
      corner(186, 151),
    ]
    expect(gathered(loop, 81).map((g) => [g.text, g.low])).toEqual([
      ['1·7', true],
      ['2', false],
      ['3–5', false],
      ['6', true],
    ])
  })
  it('leave gaps in a spark line and keep small moves flat', () => {
    expect(spark([0, 1, null, 0, 1], 40, 26)).toBe('M0 23L10 3M30 23L40 3')
    expect(spark([10, 10.1], 40, 26, 10)).toBe('M0 13.1L40 12.9')
    expect(spark([null, 1], 40, 26)).toBe('')
  })
})
