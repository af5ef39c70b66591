/** What stands on a page while its rows are on their way, and that it says nothing untrue meanwhile. */
import { flushPromises, mount } from '@vue/test-utils'
import { expect, test, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { api } from '@/api/client'
import ClassesPage from '@/features/classes/ClassesPage.vue'
import LibraryPage from '@/features/library/LibraryPage.vue'
import MarkingPage from '@/features/marking/MarkingPage.vue'
import MinePage from '@/features/mine/MinePage.vue'
import SheetsPage from '@/features/sheets/SheetsPage.vue'
import FindSelect from '@/shared/FindSelect.vue'

const PAGES = [
  ['library', LibraryPage, 'No scenario yet'],
  ['sheets', SheetsPage, 'No sheet yet'],
  ['classes', ClassesPage, 'No class yet'],
  ['marking', MarkingPage, 'No paper is waiting'],
  ['papers of one’s own', MinePage, 'Nothing to see yet'],
] as const
const NOTHING = { scenarios: [], sheets: [], classes: [], papers: [], calls: [] }

test.each(PAGES)(
  '%s: a place is held for what is coming, and “none” is said once that is known',
  async (_, page, none) => {
    const waiting: ((value: unknown) => void)[] = []
    vi.spyOn(api, 'GET').mockImplementation((() => new Promise((done) => waiting.push(done))) as never)
    const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/:rest(.*)*', component: page }] })
    const box = mount(page as never, { global: { plugins: [router] } })
    await flushPromises()
    expect(box.find('[data-test=skeleton]').exists()).toBe(true)
    expect(box.text()).not.toContain(none)
    while (waiting.length) {
      waiting.pop()?.({ data: NOTHING })
      await flushPromises()
    }
    expect(box.find('[data-test=skeleton]').exists()).toBe(false)
    expect(box.text()).toContain(none)
  },
)

test('a list shows no id while its names are on their way', async () => {
  const box = mount(FindSelect as never, { props: { modelValue: 'split-3t-r410a-txv', rows: [] } as never })
  await flushPromises()
  expect(box.text()).not.toContain('split-3t')
  await box.setProps({ rows: [{ id: 'split-3t-r410a-txv', label: 'Larkspur 36 with valve' }] } as never)
  await flushPromises()
  expect(box.text()).toContain('Larkspur 36 with valve')
})
