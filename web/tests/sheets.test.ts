import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import MarkCell from '@/features/marking/MarkCell.vue'
import { command, nextCall, toSend, verdictWord } from '@/features/marking/order'
import { confusionOption, levelWord, mix, movementOption, type Call, type Confusion } from '@/features/results/charts'
import StepBars from '@/features/results/StepBars.vue'
import { asLadder, fromRow, moved, PLAIN, plainCall, sum, toBody, type Item } from '@/features/sheets/draft'
import MovesTable from '@/features/sheets/MovesTable.vue'

const item = (more: Partial<Item>): Item => ({
  kind: 'scenario',
  title: 'x',
  scenario_id: 1,
  level: null,
  minutes: 9,
  asked: structuredClone(PLAIN),
  ...more,
})

type Data = Schemas['ItemRow']['data']
const BRIEF = { title: 'x', calls: 2 }
/** What the server keeps of an item: what does not belong to its kind is null. */
const data = (own: Partial<Data> & Pick<Data, 'kind'>): Data => ({
  asked: {},
  body: null,
  brief: null,
  rung: null,
  drill: null,
  situation: null,
  items: null,
  redraw: null,
  ...own,
})

describe('the marker’s line', () => {
  it.each([
    ['', { kind: 'mark' }],
    ['  ', { kind: 'mark' }],
    ['k', { kind: 'key' }],
    [' K ', { kind: 'key' }],
    ['9 h', { kind: 'set', number: 9, value: 'h' }],
    ['12=-3,5', { kind: 'set', number: 12, value: '-3,5' }],
    ['16 3 1 7', { kind: 'set', number: 16, value: '3 1 7' }],
    ['4: .', { kind: 'set', number: 4, value: '' }],
    ['what', { kind: 'unknown', text: 'what' }],
    ['9', { kind: 'unknown', text: '9' }],
    ['c', { kind: 'confirm' }],
    ['21 !1 seen at the rig', { kind: 'own', number: 21, points: 1, reason: 'seen at the rig' }],
    ['21!', { kind: 'own', number: 21, points: null, reason: '' }],
    ['21 !1', { kind: 'unknown', text: '21 !1' }],
  ])('reads %j', (line, wanted) => {
    expect(command(line)).toEqual(wanted)
  })
  it('sends all of a call nobody has marked, then only what differs', () => {
    const questions = [
      { id: 'a', raw: '1' },
      { id: 'b', raw: '' },
      { id: 'c', raw: '3' },
    ]
    expect(toSend(questions, { a: '1', b: '2' }, false)).toEqual({ a: '1', b: '2', c: '' })
    expect(toSend(questions, { a: '1', b: '2', c: '3' }, true)).toEqual({ b: '2' })
  })
  it('goes past a call that waits for the rig once it is answered', () => {
    const calls = [
      { position: 1, marks: [], waits: true, answered: true },
      { position: 2, marks: [], waits: true, answered: false },
      { position: 3, marks: [1] },
    ]
    expect(nextCall(calls, 1)).toBe(2)
    expect(nextCall([calls[0]!, calls[2]!], 0)).toBeNull()
  })
  it('writes changes out by their own letters', () => {
    expect([
      verdictWord('d', 'change'),
      verdictWord('U', 'change'),
      verdictWord('r', 'change'),
      verdictWord('r'),
    ]).toEqual(['down', 'up', 'r', 'normal'])
  })
})

describe('a sheet being built', () => {
  it('comes from the server and goes back the same', () => {
    const row = {
      position: 1,
      kind: 'drill',
      title: 'Convert',
      scenario_id: null,
      level: null,
      minutes: 9,
      points: null,
      rules: {},
      data: data({ kind: 'drill', drill: 'conversion', items: 6, brief: BRIEF, asked: { chart: true } }),
    }
    const made = fromRow(row)
    expect(made.asked).toEqual({ ...PLAIN, chart: true })
    expect(toBody(made)).toEqual({
      kind: 'drill',
      scenario_id: null,
      brief: BRIEF,
      rung: null,
      drill: 'conversion',
      items: 6,
      asked: { ...PLAIN, chart: true },
      situation: null,
      redraw: null,
    })
    expect(toBody(item({ kind: 'rig' })).scenario_id).toBe(1)
    expect(
      toBody(
        item({
          kind: 'rung',
          brief: BRIEF,
          rung: { number: 1, level: 2, skill: 'none', skills: null, success: null, look_decides: null, way: null },
        }),
      ),
    ).toMatchObject({
      kind: 'rung',
      rung: { level: 2 },
      scenario_id: null,
    })
    expect(plainCall(7)).toMatchObject({ kind: 'scenario', scenario_id: 7 })
  })
  it('does not share what is asked between items', () => {
    const row = {
      position: 1,
      kind: 'scenario',
      title: 'x',
      scenario_id: 1,
      level: 1,
      minutes: 5,
      points: null,
      rules: {},
      data: data({ kind: 'scenario' }),
    }
    const [a, b] = [fromRow(row), fromRow(row)]
    a.asked.points.fault = 3
    expect(b.asked.points).toEqual({})
  })
  it('moves items, never off the list', () => {
    expect(moved(['a', 'b', 'c'], 0, 1)).toEqual(['b', 'a', 'c'])
    expect(moved(['a', 'b'], 0, -1)).toEqual(['a', 'b'])
    expect(moved(['a', 'b'], 1, 1)).toEqual(['a', 'b'])
  })
  it('orders from drills over easy to hard and keeps equals in place', () => {
    const list = [
      item({ title: 'hard', level: 4 }),
      item({ title: 'a', level: 2 }),
      item({ title: 'drill', kind: 'drill' }),
      item({ title: 'b', level: 2 }),
    ]
    expect(asLadder(list).map((i) => i.title)).toEqual(['drill', 'a', 'b', 'hard'])
    expect(sum(list)).toBe(36)
  })
})

describe('the class at a glance', () => {
  const confusion: Confusion = {
    faults: [
      { id: 'u', name: 'Undercharge' },
      { id: 'o', name: 'Overcharge' },
    ],
    planted: ['u'],
    cells: [
      { planted: 'u', named: 'u', count: 3 },
      { planted: 'u', named: 'o', count: 1 },
    ],
    right: 3,
    wrong: 1,
  }
  it('draws planted down and named across, right ones in another colour', () => {
    const option = confusionOption(confusion) as {
      yAxis: { data: string[] }
      xAxis: { data: string[] }
      series: { data: { value: number[]; itemStyle: { color: string } }[] }[]
    }
    expect(option.yAxis.data).toEqual(['Undercharge'])
    expect(option.xAxis.data).toEqual(['Undercharge', 'Overcharge'])
    expect(option.series[0]!.data.map((d) => d.value)).toEqual([
      [0, 0, 3],
      [1, 0, 1],
    ])
    expect(option.series[0]!.data[0]!.itemStyle.color).toBe('rgb(75,58,140)')
    expect(option.series[0]!.data[1]!.itemStyle.color).not.toBe(option.series[0]!.data[0]!.itemStyle.color)
  })
  it('never shades a count away', () => {
    expect(mix('#000000', 0)).not.toBe('rgb(255,253,249)')
  })
  it.each([
    [3, 4, 'harder than stated'],
    [3, 2, 'easier than stated'],
    [3, 3, 'as stated'],
    [null, 2, ''],
  ] as const)('says how a call turned out: %s, %s', (stated, found, word) => {
    expect(levelWord({ stated, found } as Call)).toBe(word)
  })
  it('draws one apprentice beside the class, with gaps where nothing was handed in', () => {
    const option = movementOption(
      [
        { title: 'One', share: 0.5 },
        { title: 'Two', share: 0.75 },
      ],
      { name: 'Ada', shares: [null, 1] },
    ) as { series: { name: string; data: (number | null)[] }[] }
    expect(option.series.map((s) => s.data)).toEqual([
      [50, 75],
      [null, 100],
    ])
    expect((movementOption([], null) as { series: unknown[] }).series).toHaveLength(1)
  })
  it('says the share of each step in words as well', () => {
    const wrapper = mount(StepBars, {
      props: { steps: [{ step: 'convert', name: 'Convert', share: 0.75, lost: 1, points: 4 }] },
    })
    expect(wrapper.text()).toContain('75 %')
    expect(wrapper.text()).toContain('1 of 4 lost')
    expect(wrapper.find('[role=img]').attributes('aria-label')).toBe('75 per cent earned')
  })
})

describe('a mark', () => {
  const mark = {
    question: 'ctoa',
    points: 2,
    earned: 0,
    code: 'to_confirm',
    text: 'To be confirmed.',
    suggested: 1,
    overridden: false,
  }
  it('is confirmed with one press, by an instructor only', async () => {
    const wrapper = mount(MarkCell, { props: { mark, question: 'ctoa', teaches: true } })
    await wrapper.find('.confirm').trigger('click')
    expect(wrapper.emitted('override')).toEqual([[1, '']])
    expect(
      mount(MarkCell, { props: { mark, question: 'ctoa', teaches: false } })
        .find('button')
        .exists(),
    ).toBe(false)
  })
  it('is marked otherwise only with a reason', async () => {
    const wrapper = mount(MarkCell, {
      props: { mark: { ...mark, code: 'blank', suggested: null }, question: 'ctoa', teaches: true },
    })
    await wrapper.find('.other').trigger('click')
    expect(wrapper.find('.otherwise .confirm').attributes('disabled')).toBeDefined()
    await wrapper.find('.otherwise input').setValue('2')
    await wrapper.find('.why').setValue('smudged')
    await wrapper.find('.otherwise .confirm').trigger('click')
    expect(wrapper.emitted('override')).toEqual([[2, 'smudged']])
  })
})

describe('who moves', () => {
  it('says so when nobody does, and names the questions', () => {
    expect(mount(MovesTable, { props: { moves: [], done: false } }).text()).toBe('Nobody would move.')
    const text = mount(MovesTable, {
      props: {
        moves: [
          {
            code: 'ABC',
            name: 'Ada',
            before: null,
            before_possible: 0,
            after: 3,
            after_possible: 4,
            changes: [{ question: 'suction_saturation', before: null, after: 1 }],
          },
        ],
        done: true,
      },
    }).text()
    expect(text).toContain('not marked')
    expect(text).toContain('3/4')
    expect(text).toContain('suction saturation')
  })
})

it('sends a situation with what it is drawn from and nothing of other kinds', () => {
  const one = item({ kind: 'situation', scenario_id: null, situation: 'trips', brief: BRIEF })
  expect(toBody(one)).toMatchObject({ kind: 'situation', situation: 'trips', brief: BRIEF, drill: null, rung: null })
  const back = fromRow({
    position: 1,
    title: 'It will not stay running',
    scenario_id: null,
    level: 4,
    minutes: 12,
    points: null,
    kind: 'situation',
    data: data({ kind: 'situation', situation: 'trips', brief: BRIEF }),
  } as Schemas['ItemRow'])
  expect(toBody(back)).toMatchObject({ kind: 'situation', situation: 'trips' })
})
