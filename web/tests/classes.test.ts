import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import ClassesPage from '@/features/classes/ClassesPage.vue'
import { question, undoable } from '@/shared/asking'
import { asked, serve, type Sent } from './server'

const person = (id: number, name: string, more: object = {}) => ({
  id,
  name,
  number: '',
  group: '',
  login: null,
  gone: false,
  erase_at: null,
  ...more,
})
const group = (id: number, name: string, people: object[] = [], more: object = {}) => ({
  id,
  name,
  term: 'Autumn',
  archived: false,
  size: people.length,
  people,
  ...more,
})
const FIRST_PEOPLE = [person(11, 'Ada Quill'), person(12, 'Bo Fenn', { login: 'bo' })]
const FIRSTS = group(1, 'Firsts', FIRST_PEOPLE)
const SECONDS = group(2, 'Seconds', [person(21, 'Cy Marl')], { term: 'Spring' })
const DOT = { name: 'Dot Hale', number: '7', group: 'A' }
const ROSTER = {
  people: [DOT],
  problems: ['line 2: no name'],
  header: false,
  columns: [
    { role: 'name', head: '' },
    { role: 'number', head: '' },
    { role: 'group', head: '' },
  ],
  rows: [
    { line: 1, cells: ['Dot Hale', '7', 'A'], ...DOT, problem: '' },
    { line: 2, cells: ['', '', ''], name: '', number: '', group: '', problem: 'no name' },
  ],
}

function answers(more: Parameters<typeof serve>[0] = {}) {
  return serve({
    GET: {
      '/api/v1/classes': { classes: [FIRSTS, SECONDS] },
      '/api/v1/classes/{class_id}': ({ params }: Sent) => ({
        data: (params.path as { class_id: number }).class_id === 1 ? FIRSTS : SECONDS,
      }),
      ...more.GET,
    },
    POST: { '/api/v1/rosters': ROSTER, ...more.POST },
    PUT: more.PUT ?? {},
    DELETE: more.DELETE ?? {},
  })
}
async function open(): Promise<VueWrapper> {
  const page = mount(ClassesPage, { global: { stubs: { RouterLink: { template: '<a><slot /></a>' } } } })
  await flushPromises()
  return page as VueWrapper
}
const button = (page: VueWrapper, text: string) => page.findAll('button').find((b) => b.text() === text)
async function type(page: VueWrapper, list: string) {
  await page.find('textarea').setValue(list)
  await vi.advanceTimersByTimeAsync(300)
  await flushPromises()
}

describe('the classes', () => {
  it('keep a form open that somebody opened before they had come', async () => {
    answers()
    const page = mount(ClassesPage, {
      global: { stubs: { RouterLink: { template: '<a><slot /></a>' } } },
      attachTo: document.body,
    }) as VueWrapper
    await button(page, 'New class')?.trigger('click')
    await flushPromises()
    expect(document.activeElement).toBe(page.find('form input').element)
    expect(page.find('form h2').text()).toBe('New class')
    await page.findAll('nav button')[0]?.trigger('click')
    await flushPromises()
    expect(page.find('form h2').text()).toBe('Add to this class')
  })
  it('stand by term with the first one open', async () => {
    answers()
    const page = await open()
    expect(page.findAll('nav h2').map((h) => h.text())).toEqual(['Autumn', 'Spring'])
    expect(page.find('.people').text()).toContain('Ada Quill')
    await page.findAll('nav button')[1]?.trigger('click')
    await flushPromises()
    expect(page.find('.people').text()).toContain('Cy Marl')
  })
  it('reads a pasted list once the hand rests, says what it could not read, and adds who is there', async () => {
    const spies = answers({ POST: { '/api/v1/classes/{class_id}/apprentices': FIRSTS } })
    const page = await open()
    await type(page, 'Dot Hale, 7, A\n,,')
    expect(asked(spies.POST, '/api/v1/rosters').map((s) => s.body)).toEqual([
      { text: 'Dot Hale, 7, A\n,,', columns: null, header: null, class_id: 1 },
    ])
    const shown = page.find('[data-test=roster]')
    expect(shown.find('[role=status]').text()).toContain('1 to add, 1 skipped')
    expect(shown.findAll('tbody tr').map((row) => row.findAll('td')[1]?.text())).toEqual([
      'Dot Hale, 7, group A',
      'skipped: no name',
    ])
    await page.findAll('form').at(-1)?.trigger('submit')
    await flushPromises()
    const [sent] = asked(spies.POST, '/api/v1/classes/{class_id}/apprentices')
    expect([sent?.params.path, sent?.body]).toEqual([{ class_id: 1 }, { people: ROSTER.people }])
    expect((page.find('textarea').element as HTMLTextAreaElement).value).toBe('')
  })
  it('reads the list again with what a column is called, and whether the first line names them', async () => {
    const spies = answers()
    const page = await open()
    await type(page, 'Hale, Dot')
    await page.findAll('[data-test=roster] select')[1]?.setValue('first')
    await flushPromises()
    await page.find('[data-test=header]').setValue(true)
    await flushPromises()
    const sent = asked(spies.POST, '/api/v1/rosters').map((s) => s.body as { columns: string[]; header: boolean })
    expect(sent.map((s) => [s.columns, s.header])).toEqual([
      [null, null],
      [['name', 'first', 'group'], null],
      [['name', 'first', 'group'], true],
    ])
  })
  it('keeps a list with the class it was typed for', async () => {
    answers()
    const page = await open()
    const text = () => (page.find('textarea').element as HTMLTextAreaElement).value
    await type(page, 'Dot Hale')
    await page.findAll('nav button')[1]?.trigger('click')
    await flushPromises()
    expect(text()).toBe('')
    await button(page, 'New class')?.trigger('click')
    expect(text()).toBe('')
    await page.findAll('nav button')[0]?.trigger('click')
    await flushPromises()
    expect(text()).toBe('Dot Hale')
  })
  it('keeps a new class that is refused, through a reload', async () => {
    answers({
      POST: {
        '/api/v1/classes': () =>
          Promise.resolve({ error: { error: { code: 'taken', message: 'a class with this name already exists' } } }),
      },
    })
    const page = await open()
    await button(page, 'New class')?.trigger('click')
    await page.find('form.card input').setValue('Firsts')
    await type(page, 'Dot Hale')
    await page.findAll('form').at(-1)?.trigger('submit')
    await flushPromises()
    expect(page.find('[role=alert]').text()).toBe('a class with this name already exists')
    page.unmount()
    const again = await open()
    await button(again, 'New class')?.trigger('click')
    expect((again.find('form.card input').element as HTMLInputElement).value).toBe('Firsts')
    expect((again.find('textarea').element as HTMLTextAreaElement).value).toBe('Dot Hale')
  })
  it('archives a class with its name and term as they are', async () => {
    const spies = answers({ PUT: { '/api/v1/classes/{class_id}': { ...FIRSTS, archived: true } } })
    const page = await open()
    await button(page, 'Archive')?.trigger('click')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/classes/{class_id}')[0]?.body).toEqual({
      name: 'Firsts',
      term: 'Autumn',
      archived: true,
    })
  })
  it('gives somebody a log-in with a one-time code, and changes only what was changed', async () => {
    const slip = { apprentice_id: 12, name: 'Ada Quill', login: 'ada.quill', code: 'AAAA-BBBB-CCCC' }
    const spies = answers({
      PUT: { '/api/v1/apprentices/{apprentice_id}': FIRSTS },
      POST: { '/api/v1/classes/{class_id}/log-ins': { slips: [slip], days: 14 } },
    })
    const page = await open()
    await page.findAll('button.edit')[0]?.trigger('click')
    await page.find('.people form').trigger('submit')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/apprentices/{apprentice_id}')[0]?.body).toEqual({
      name: 'Ada Quill',
      number: '',
      group: '',
      gone: false,
      class_id: FIRSTS.id,
    })
    expect(spies.POST).not.toHaveBeenCalledWith('/api/v1/classes/{class_id}/log-ins', expect.anything())
    await page.findAll('button.edit')[0]?.trigger('click')
    await page.find('[data-test=code-for]').trigger('click')
    await flushPromises()
    const [sent] = asked(spies.POST, '/api/v1/classes/{class_id}/log-ins')
    expect(sent?.body).toEqual({ apprentice_ids: [FIRST_PEOPLE[0]?.id] })
    expect(page.find('[data-test=slips]').text()).toContain('AAAA-BBBB-CCCC')
  })
  it('reads OneRoster files first, asks, and takes them in where somebody says yes', async () => {
    const one = { title: 'Refrigeration 1', new: true, added: 2, there: 1, left: 0 }
    const spies = answers({ POST: { '/api/v1/school/oneroster': { classes: [one], kept: false } } })
    const page = await open()
    const dry = () =>
      spies.POST.mock.calls.filter(([p]) => p === '/api/v1/school/oneroster').map(([, init]) => init.params.query.dry)
    const pick = async (yes: boolean) => {
      const input = page.find('[data-test=oneroster]')
      Object.defineProperty(input.element, 'files', { value: [new File(['x'], 'a.zip')], configurable: true })
      await input.trigger('change')
      await flushPromises()
      expect(question.value?.lines).toEqual(['Refrigeration 1 (new): 2 added, 1 there already'])
      question.value?.answer(yes)
      await flushPromises()
    }
    await pick(false)
    expect(dry()).toEqual([true])
    await pick(true)
    expect(dry()).toEqual([true, true, false])
  })
  it('erases somebody in ten minutes, which can be taken back, or at once', async () => {
    const people = FIRST_PEOPLE.map((p) => (p.id === 12 ? { ...p, erase_at: '2026-03-02T14:15:00Z' } : p))
    const spies = answers({
      PUT: { '/api/v1/apprentices/{apprentice_id}/erasing': { ...FIRSTS, people } },
      DELETE: { '/api/v1/apprentices/{apprentice_id}': FIRSTS },
    })
    const page = await open()
    await page.findAll('button.edit')[1]?.trigger('click')
    await button(page, 'Erase')?.trigger('click')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/apprentices/{apprentice_id}/erasing')[0]).toMatchObject({
      params: { path: { apprentice_id: 12 } },
      body: { erasing: true },
    })
    expect(page.text()).toMatch(/erased at 2:15/)
    await undoable.value?.undo()
    expect(asked(spies.PUT, '/api/v1/apprentices/{apprentice_id}/erasing')[1]?.body).toEqual({ erasing: false })
    expect(asked(spies.DELETE, '/api/v1/apprentices/{apprentice_id}')).toEqual([])
    await button(page, 'Erase now')?.trigger('click')
    await flushPromises()
    expect(asked(spies.DELETE, '/api/v1/apprentices/{apprentice_id}')[0]?.params.path).toEqual({ apprentice_id: 12 })
  })
  it('moves somebody to another class, and back', async () => {
    const spies = answers({ PUT: { '/api/v1/apprentices/{apprentice_id}': FIRSTS } })
    const page = await open()
    await page.findAll('button.edit')[0]?.trigger('click')
    await page.find('[data-test=move-to]').setValue(String(SECONDS.id))
    await page.find('.people form').trigger('submit')
    await flushPromises()
    await undoable.value?.undo()
    expect(
      asked(spies.PUT, '/api/v1/apprentices/{apprentice_id}').map((x) => (x.body as { class_id: number }).class_id),
    ).toEqual([SECONDS.id, FIRSTS.id])
  })
})
