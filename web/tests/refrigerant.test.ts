import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import CylinderShelf from '@/features/refrigerant/CylinderShelf.vue'
import MoveForm from '@/features/refrigerant/MoveForm.vue'
import RefrigerantPage from '@/features/refrigerant/RefrigerantPage.vue'
import { user } from '@/shared/session'
import { asked, serve } from './server'

const cylinder = (more: object = {}) => ({
  id: 1,
  name: 'N1',
  kind: 'new',
  refrigerant: 'R-410A',
  owner: '',
  retest_on: '',
  share: 0.5,
  net: '12 lb 0.0 oz',
  gross: '25 lb 0.0 oz',
  tare: '13 lb',
  water: '29 lb',
  limit: '24 lb',
  room: '',
  notes: [],
  ...more,
})
const MOVE = {
  id: 7,
  at: '2026-11-30T16:00:00Z',
  kind: 'charge',
  text: 'charged into Rig A',
  cylinder: 'N1',
  refrigerant: 'R-410A',
  log: '12.0 oz',
  weighed: '14.0 oz',
  scale: '',
  person: 'Ada Quill',
  why: 'short',
  differences: [{ text: 'cylinder and log: 2.0 oz', causes: ['purged from the hoses', 'weigh it again'] }],
  explained: '',
  explained_by: '',
}
const log = (more: object = {}) => ({
  cylinders: [cylinder()],
  moves: [MOVE],
  by_refrigerant: [],
  by_cylinder: [],
  by_rig: [],
  refrigerants: ['R-22', 'R-410A'],
  today: '2026-11-30',
  days: [],
  no_advice: 'Not legal advice.',
  ...more,
})
const router = createRouter({
  history: createMemoryHistory(),
  routes: [{ path: '/:all(.*)*', component: { template: '<i/>' } }],
})
const RIGS = [{ id: 3, name: 'Rig A', refrigerant: 'R-410A' }]

async function page(reply: object, role = 'instructor') {
  user.value = { name: 'T', login: 't', role, school: 'S', time_zone: 'UTC' } as never
  const spies = serve({
    GET: { '/api/v1/refrigerant': reply, '/api/v1/rigs': { rigs: RIGS, now: '', rotation: null } },
    PUT: {
      '/api/v1/refrigerant/moves/{move_id}/explained': log({
        moves: [{ ...MOVE, explained: 'hoses', explained_by: 'T' }],
      }),
    },
    POST: { '/api/v1/refrigerant/close': log({ days: [{ day: '2026-11-30', closed_at: '', who: 'T' }], moves: [] }) },
  })
  const shown = mount(RefrigerantPage, { global: { plugins: [router] } })
  await flushPromises()
  return { shown, spies }
}

beforeEach(() => localStorage.clear())
afterEach(() => {
  user.value = null
  vi.restoreAllMocks()
})

describe('the refrigerant log', () => {
  it('asks for an explanation of what does not add up, and closes the day only then', async () => {
    const { shown, spies } = await page(log())
    const closing = () => shown.find('[data-test=close-day]')
    expect(shown.find('[data-test=open]').text()).toContain('One move does not add up')
    expect(closing().attributes('disabled')).toBeDefined()
    expect(shown.find('[data-test=difference]').text()).toContain('purged from the hoses; weigh it again')
    await shown.find('[data-test=explain]').setValue('hoses')
    await shown.find('.say').trigger('submit')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/refrigerant/moves/{move_id}/explained')[0]?.body).toMatchObject({
      explained: 'hoses',
    })
    expect(shown.find('[data-test=open]').exists()).toBe(false)
    await closing().trigger('click')
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/refrigerant/close')[0]?.body).toMatchObject({ day: '2026-11-30' })
    expect(shown.text()).toContain('Today is closed')
    expect(shown.find('[data-test=write-down]').exists()).toBe(false)
  })

  it('lets whoever assists write down, and leaves explaining and closing to an instructor', async () => {
    const { shown } = await page(log(), 'assistant')
    expect(shown.find('[data-test=write-down]').exists()).toBe(true)
    expect(shown.find('[data-test=explain]').exists()).toBe(false)
    expect(shown.find('[data-test=close-day]').exists()).toBe(false)
    expect(shown.find('[data-test=difference]').text()).toContain('An instructor has to explain it')
  })
})

describe('a move', () => {
  const form = () =>
    mount(MoveForm, {
      props: { cylinders: [cylinder()], refrigerants: ['R-410A'], rigs: RIGS, chosen: null } as never,
    })
  async function filled() {
    const shown = form()
    await shown.find('[data-test=move-cylinder]').setValue('1')
    await shown.find('[data-test=move-rig]').setValue('3')
    for (const [field, text] of Object.entries({ before: '25', after: '24 lb 4 oz', log: '12 oz' }))
      await shown.find(`[data-test=${field}]`).setValue(text)
    return shown
  }

  it('is sent as it was typed, and the form is ready for the next', async () => {
    const spies = serve({ POST: { '/api/v1/refrigerant/moves': log() } })
    const shown = await filled()
    await shown.find('form').trigger('submit')
    await flushPromises()
    const body = asked(spies.POST, '/api/v1/refrigerant/moves')[0]?.body
    expect(body).toMatchObject({
      kind: 'charge',
      cylinder_id: 1,
      rig_id: 3,
      other_id: null,
      log: '12 oz',
      happened: false,
    })
    expect(shown.emitted('written')).toHaveLength(1)
    expect((shown.find('[data-test=log]').element as HTMLInputElement).value).toBe('')
  })

  it('that must not be done shows its caution, keeps what was typed, and can be recorded all the same', async () => {
    const refusal = () =>
      Promise.resolve({
        error: { error: { code: 'bad', field: 'log', message: 'log 3 is not accepted; allowed: 80 % full' } },
      })
    const spies = serve({ POST: { '/api/v1/refrigerant/moves': refusal } })
    const shown = await filled()
    expect(shown.find('[data-test=happened]').exists()).toBe(false)
    await shown.find('form').trigger('submit')
    await flushPromises()
    expect(shown.find('[data-test=refused]').text()).toBe('Moved, as written: 3 is not accepted; allowed: 80 % full')
    expect((shown.find('[data-test=before]').element as HTMLInputElement).value).toBe('25')
    await shown.find('[data-test=happened]').trigger('click')
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/refrigerant/moves')[1]?.body).toMatchObject({ happened: true })
  })

  it('cannot be sent before the rig is named', async () => {
    const shown = form()
    await shown.find('[data-test=move-cylinder]').setValue('1')
    for (const field of ['before', 'after', 'log']) await shown.find(`[data-test=${field}]`).setValue('5')
    expect(shown.find('[data-test=write-down]').attributes('disabled')).toBeDefined()
    await shown.find('[data-test=kind]').setValue('lost')
    expect(shown.find('[data-test=write-down]').attributes('disabled')).toBeUndefined()
  })
})

describe('the shelf', () => {
  it('draws a full cylinder up to its line and one too full past it, in its own color', () => {
    const shelf = mount(CylinderShelf, {
      props: { cylinders: [cylinder({ share: 1 }), cylinder({ id: 2, share: 1.1 })] as never, chosen: null },
    })
    const [line] = shelf.findAll('.limit').map((l) => Number(/M5 ([\d.]+)h/.exec(l.attributes('d') ?? '')?.[1]))
    const [full, over] = shelf.findAll('.liquid')
    expect(Number(full?.attributes('y'))).toBeCloseTo(line ?? 0)
    expect(Number(over?.attributes('y'))).toBeLessThan(line ?? 0)
    expect([full, over].map((l) => l?.classes('over'))).toEqual([false, true])
  })
})
