import { mount } from '@vue/test-utils'
import ElementPlus from 'element-plus'
import { describe, expect, it, vi } from 'vitest'
import FindSelect from '@/shared/FindSelect.vue'
import { finding } from '@/shared/finding'

const ROWS = [
  { id: 'low_airflow', label: 'Low evaporator airflow', also: ['dirty filter', 'airflow', 'plugged filter'] },
  { id: 'non_condensables', label: 'Non-condensables (air)', also: ['air', 'air in the system'] },
  { id: 'undercharge', label: 'Low charge (undercharged)', also: ['short of gas', 'low on refrigerant', 'leak'] },
  { id: 'split-3t-r22-orifice', label: 'Teasel 36 with orifice · R-22', also: ['piston', 'r22', 'split'] },
]
const ids = (text: string) => finding(ROWS, text).map((row) => row.id)

describe('finding by everyday names', () => {
  it.each([
    ['short of gas', ['undercharge']],
    ['Plugged Filter', ['low_airflow']],
    ['air', ['non_condensables', 'low_airflow']],
    ['low', ['low_airflow', 'undercharge']],
    ['R22 piston', ['split-3t-r22-orifice']],
    ['non-cond', ['non_condensables']],
    ['quantum', []],
  ])('%s', (text, expected) => {
    expect(ids(text)).toEqual(expected)
  })
  it('leaves all as it stands where nothing is typed', () => {
    expect(ids('  ')).toEqual(ROWS.map((row) => row.id))
  })
  it('takes the first hit on Enter, by whatever name it was found', async () => {
    vi.useFakeTimers()
    const page = mount(FindSelect, {
      props: { modelValue: '', rows: ROWS },
      global: { plugins: [ElementPlus] },
      attachTo: document.body,
    })
    const input = page.find('input')
    await input.trigger('click')
    await input.setValue('leak')
    await vi.advanceTimersByTimeAsync(400)
    await input.trigger('keydown', { key: 'Enter', code: 'Enter' })
    expect(page.emitted('update:modelValue')).toEqual([['undercharge']])
    page.unmount()
    vi.useRealTimers()
  })
  it.each([
    ['one, rows still coming', '', 'undercharge', false],
    ['several, rows still coming', ['low_airflow'], ['low_airflow', 'undercharge'], false],
    ['one, rows there', '', 'undercharge', true],
    ['several, rows there', ['low_airflow'], ['low_airflow', 'undercharge'], true],
  ])('takes the hit where the field was left right after Enter: %s', async (_, modelValue, taken, there) => {
    const page = mount(FindSelect, {
      props: { modelValue, multiple: Array.isArray(modelValue), rows: there ? ROWS : [] },
      global: { plugins: [ElementPlus] },
      attachTo: document.body,
    })
    const input = page.find('input')
    await input.setValue('short of gas')
    const enter = new KeyboardEvent('keydown', { key: 'Enter', code: 'Enter', bubbles: true })
    Object.defineProperty(enter, 'isTrusted', { value: true })
    input.element.dispatchEvent(enter)
    page.findComponent({ name: 'ElSelect' }).vm.$emit('visible-change', false)
    await page.setProps({ rows: ROWS })
    await vi.waitFor(() => expect(page.emitted('update:modelValue')).toBeTruthy())
    expect(page.emitted('update:modelValue')).toEqual([[taken]])
    page.unmount()
  })
})
