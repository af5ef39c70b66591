import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import LabQuestion from '@/features/lab/LabQuestion.vue'
import { added, drawn, since, withSteps, type Step } from '@/features/lab/session'

const step = (kind: string, data: Record<string, unknown> = {}, id = drawn()): Step => ({ id, at: 1, kind, data })
const seen = (): Schemas['LabSession'] => ({
  id: 1,
  rig_id: 1,
  rig: 'Rig 1',
  class_id: 1,
  title: 'Cools, but not enough',
  people: ['Tamsin Orrel'],
  began_at: '2026-01-01T00:00:00Z',
  ended_at: null,
  phase_since: null,
  status: 'at work',
  countersign: false,
  countersigned: false,
  safety_ticked: 1,
  why: '',
  card: {
    machine: 'Larkspur 36',
    refrigerant: 'R-410A',
    metering: 'txv',
    plate: [],
    complaint: '',
    history: '',
    look_round: [],
    touch: [],
    never: '',
    units: 'us',
    instruments: 'analogue',
  },
  ticks: [],
  questions: [],
  proofs: [],
  cylinders: [],
  result: null,
  phase: 'card',
  phase_name: 'Call card',
  phases: [
    { id: 'card', name: 'Call card' },
    { id: 'safety', name: 'Safety' },
  ],
  signed: '',
  wants_help: false,
  state: {
    ticks: { clear: '2026-01-01T00:00:00Z' },
    answers: { superheat: '12' },
    note: '',
    stops: [],
    planned: false,
    weighs: [],
    done: false,
    proofs: {},
    record: '',
    finished: false,
  },
})

describe('a session with steps that were not sent yet', () => {
  it('shows them on top of what the server knows and leaves that as it is', () => {
    const server = seen()
    const steps = [
      step('phase', { to: 'safety' }),
      step('tick', { step: 'glasses', on: true }),
      step('tick', { step: 'clear', on: false }),
      step('answer', { question: 'superheat', text: '14' }),
      step('proof', { reading: 'head_pressure', text: '340' }),
      step('note', { text: 'no frost' }),
      step('weigh', { cylinder_id: 2, kind: 'charge', before: '29 lb', after: '28 lb', log: '16' }),
      step('plan'),
      step('done'),
      step('record', { text: 'charged' }),
      step('help'),
      step('finish'),
    ]
    const now = withSteps(server, steps)
    expect([now.phase, now.phase_name, now.signed, now.wants_help]).toEqual(['safety', 'Safety', 'asked', true])
    expect(now.state).toMatchObject({
      ticks: { glasses: '' },
      answers: { superheat: '14' },
      proofs: { head_pressure: '340' },
      note: 'no frost',
      record: 'charged',
      planned: true,
      done: true,
      finished: true,
    })
    expect(Object.keys(now.state.ticks)).toEqual(['glasses'])
    expect(now.state.weighs).toEqual([
      { cylinder_id: 2, kind: 'charge', before: '29 lb', after: '28 lb', log: '16', said: '', kept: false },
    ])
    expect(server).toEqual(seen())
  })
  it('is the same where nothing waits', () => {
    const server = seen()
    expect(withSteps(server, [])).toBe(server)
  })
})

describe('steps that wait', () => {
  const none = new Set<string>()
  it('hold one text of a field, the last', () => {
    const first = step('answer', { question: 'superheat', text: '1' })
    const other = step('answer', { question: 'subcooling', text: '9' })
    const last = step('answer', { question: 'superheat', text: '14' })
    expect(added(added([first], other, none), last, none)).toEqual([other, last])
  })
  it('keep what is on its way, so that nothing is lost between two texts', () => {
    const first = step('note', { text: 'a' })
    expect(added([first], step('note', { text: 'ab' }), new Set([first.id]))).toHaveLength(2)
  })
  it('never hold a weighing or a tick for another', () => {
    const rows = [step('weigh', { log: '4' }), step('tick', { step: 'clear', on: true })]
    expect(added(rows, step('weigh', { log: '4' }), none)).toHaveLength(3)
    expect(added(rows, step('tick', { step: 'clear', on: false }), none)).toHaveLength(3)
  })
})

describe('an id and a time', () => {
  it('are drawn anew each time, in letters the server takes', () => {
    expect(drawn()).toMatch(/^[0-9a-f]{32}$/)
    expect(drawn()).not.toBe(drawn())
  })
  it('are minutes and seconds since then, never below nothing', () => {
    expect(since('2026-01-01T00:00:00Z', Date.parse('2026-01-01T00:12:05Z'))).toBe('12:05')
    expect(since('2026-01-01T00:00:00Z', Date.parse('2025-12-31T23:00:00Z'))).toBe('0:00')
    expect(since(null, 0)).toBe('0:00')
  })
})

const question = (more: Partial<Schemas['LabQuestion']>): Schemas['LabQuestion'] => ({
  id: 'x',
  text: 'Superheat',
  kind: 'difference',
  unit: '°F',
  points: 1,
  phase: 'work_out',
  band: '',
  choices: [],
  ...more,
})
const shown = (more: Partial<Schemas['LabQuestion']>, value = '', locked = false) =>
  mount(LabQuestion, { props: { question: question(more), value, locked } })
const letters = [
  { letter: 'A', text: 'one' },
  { letter: 'B', text: 'two' },
]

describe('a field of a session', () => {
  it('takes a number as it is typed, and is not overwritten while somebody types', async () => {
    const field = shown({})
    const input = field.find('input')
    await input.trigger('focus')
    await input.setValue('14')
    expect(field.emitted('typed')).toEqual([['14']])
    await field.setProps({ value: '1' })
    expect(input.element.value).toBe('14')
    await input.trigger('blur')
    await field.setProps({ value: '15' })
    expect(input.element.value).toBe('15')
  })
  it('takes low, normal or high with one tap', async () => {
    const field = shown({ kind: 'verdict', band: '8 to 12' })
    expect(field.text()).toContain('8 to 12')
    await field.findAll('input')[2]!.setValue()
    expect(field.emitted('typed')).toEqual([['high']])
  })
  it('takes one letter, and lets go of it', async () => {
    const field = shown({ kind: 'letter', choices: letters }, 'A')
    await field.findAll('button')[1]!.trigger('click')
    await field.findAll('button')[0]!.trigger('click')
    expect(field.emitted('typed')).toEqual([['B'], ['']])
  })
  it('takes steps in the order they are tapped', async () => {
    const field = shown(
      {
        kind: 'steps',
        choices: [
          { letter: '1', text: 'a' },
          { letter: '2', text: 'b' },
        ],
      },
      '2',
    )
    await field.findAll('button')[0]!.trigger('click')
    expect(field.emitted('typed')).toEqual([['2 1']])
    expect(field.findAll('b').map((b) => b.text())).toEqual(['·', '1'])
  })
  it('is shut once the work goes on', () => {
    expect(shown({}, '', true).find('input').element.disabled).toBe(true)
  })
})
