import { shallowMount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import type { Schemas } from '@/api/client'
import AskedPanel from '@/features/sheets/AskedPanel.vue'
import { PLAIN, type Item } from '@/features/sheets/draft'

const rubrics: Schemas['RubricRow'][] = [
  { id: 'balanced', name: 'Balanced', points: { fault: 6, order: 4 }, diagnosis_only: { fault: 10 } },
  { id: 'diagnosis_first', name: 'Diagnosis first', points: { fault: 10, order: 4 }, diagnosis_only: { fault: 14 } },
]
const catalogue: Schemas['CatalogueReply'] = {
  machines: [],
  faults: [],
  practices: [],
  checks: [],
  instruments: [],
  rubrics,
  situations: [],
}

function shown(asked: Partial<Item['asked']>) {
  const item: Item = {
    kind: 'scenario',
    title: 'x',
    scenario_id: 1,
    level: null,
    minutes: 9,
    asked: { ...structuredClone(PLAIN), ...asked },
  }
  const panel = shallowMount(AskedPanel, {
    props: { modelValue: item, catalogue, number: 1 },
    global: { stubs: { NumberField: false } },
  })
  const box = (name: string) => {
    const label = panel.findAll('.points label').find((l) => l.text() === name)
    if (!label) throw new Error(`no points for ${name}`)
    return label.get('input')
  }
  return { item, box, panel }
}

describe('points of a call', () => {
  it('are those of the rubric chosen, and more for the diagnosis where no repair is asked', () => {
    expect(shown({}).box('What is wrong').element.value).toBe('6')
    expect(shown({ rubric: 'diagnosis_first' }).box('What is wrong').element.value).toBe('10')
    expect(shown({ parts: ['diagnose'] }).box('What is wrong').element.value).toBe('10')
    expect(shown({}).box('Superheat').element.value).toBe('1')
  })
  it('keep what differs from the rubric, up to twelve, and forget what does not', async () => {
    const { item, box } = shown({})
    await box('What is wrong').setValue('40')
    expect(item.asked.points).toEqual({ fault: 12 })
    await box('What is wrong').setValue('6')
    await nextTick()
    expect(item.asked.points).toEqual({})
  })
})

it('asks nothing of a situation, which brings its own questions', () => {
  const item: Item = {
    kind: 'situation',
    title: 'Standing pressure',
    scenario_id: null,
    level: 2,
    minutes: 8,
    asked: structuredClone(PLAIN),
    situation: 'standing_pressure',
  }
  const panel = shallowMount(AskedPanel, {
    props: { modelValue: item, catalogue, number: 1 },
    global: { stubs: { NumberField: false } },
  })
  expect(panel.text()).toContain('brings its own questions')
  expect(panel.find('fieldset').exists()).toBe(false)
})
