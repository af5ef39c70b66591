import { mount } from '@vue/test-utils'
import { nextTick } from 'vue'
import { beforeEach, describe, expect, it } from 'vitest'
import { problem } from '@/api/client'
import FigureBar from '@/features/bench/FigureBar.vue'
import { afterEnter, nextCall, verdictWord } from '@/features/marking/order'
import DialFace from '@/shared/DialFace.vue'
import { forget, kept } from '@/shared/kept'

describe('marking with the keyboard', () => {
  it('goes to the next field on Enter and marks after the last', () => {
    expect(afterEnter(0, 14)).toEqual({ kind: 'field', index: 1 })
    expect(afterEnter(13, 14)).toEqual({ kind: 'mark' })
  })
  it('goes on with the next call that has no marks, then with those left behind', () => {
    const calls = [
      { position: 1, marks: [] },
      { position: 2, marks: [1] },
      { position: 3, marks: [] },
    ]
    expect(nextCall(calls, 1)).toBe(3)
    expect(nextCall(calls, 3)).toBe(1)
    expect(nextCall([{ position: 1, marks: [1] }], 1)).toBeNull()
  })
  it('writes a verdict out', () => {
    expect([verdictWord('H'), verdictWord(' l '), verdictWord('right'), verdictWord('?')]).toEqual([
      'high',
      'low',
      'right',
      '?',
    ])
  })
})

describe('what is kept', () => {
  beforeEach(() => localStorage.clear())
  it('comes back after a reload', async () => {
    const draft = kept('test', { a: '' })
    draft.value.a = 'typed'
    await nextTick()
    expect(kept('test', { a: '' }).value).toEqual({ a: 'typed' })
    forget('test')
    expect(kept('test', { a: 'fresh' }).value).toEqual({ a: 'fresh' })
  })
  it('is thrown away when it cannot be read', () => {
    localStorage.setItem('wolfsbane.test', '{broken')
    expect(kept('test', 5).value).toBe(5)
  })
})

describe('pictures say what they show', () => {
  it('a figure carries its verdict as a word and a sign, not as colour alone', () => {
    const figure = {
      id: 'superheat',
      label: 'Superheat',
      now: { value: 21, unit: '°F', text: '21.0 °F' },
      fault_free: { value: 13, unit: '°F', text: '13.0 °F' },
      band_low: 10,
      band_high: 20,
      band_text: '10.0 to 20.0 °F',
      scale_low: -5,
      scale_high: 45,
      verdict: 'high',
    }
    const bar = mount(FigureBar, { props: { figure } })
    expect(bar.text()).toContain('▲ HIGH')
    expect(bar.find('.now').attributes('style')).toContain('52%')
    expect(bar.find('[role=img]').attributes('aria-label')).toBe(
      'Superheat 21.0 °F, target 10.0 to 20.0 °F, normal 13.0 °F',
    )
  })
  it('a dial turns its needle to the angle of the server', () => {
    const drawing = {
      side: 'low',
      unit: 'psig',
      text: '118 psig',
      needle_deg: -7.56,
      minor_path: '',
      major_path: '',
      labels: [],
      ring_path: '',
      ring_labels: [],
      ring_unit: '°F',
      ring_radius: 62,
      refrigerant: 'R-410A',
      value: 118,
    }
    const dial = mount(DialFace, { props: { drawing } })
    expect(dial.find('.needle').attributes('data-angle')).toBe('-7.56')
    expect(dial.attributes('aria-label')).toBe('low side gauge reads 118 psig')
  })
})

describe('a failed call', () => {
  it('shows the sentence of the server, or that nothing was lost', () => {
    expect(problem({ error: { message: 'outdoor_db_f 300 is not accepted' } })).toBe('outdoor_db_f 300 is not accepted')
    expect(problem(undefined)).toContain('What you typed is kept')
  })
})
