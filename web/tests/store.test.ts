import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { kept } from '@/shared/kept'
import { logOut, readSession } from '@/shared/session'
import { setShared, store, takeOver } from '@/shared/store'
import { serve } from './server'

const USER = { id: 1, name: 'T', login: 'teacher', role: 'instructor', school: 'S', time_zone: 'UTC' }
const everything = () => JSON.stringify([{ ...localStorage }, { ...sessionStorage }])

describe('what a browser keeps', () => {
  const assign = vi.fn()
  const reload = vi.fn()
  beforeEach(() => {
    localStorage.clear()
    sessionStorage.clear()
    vi.stubGlobal('location', { ...window.location, assign, reload, search: '', pathname: '/' })
  })
  afterEach(() => {
    setShared(false)
    vi.unstubAllGlobals()
    vi.restoreAllMocks()
    assign.mockReset()
    reload.mockReset()
  })

  it('is gone when its account logs out, and the page goes with it', async () => {
    serve({ DELETE: { '/api/v1/session': { user: null, csrf: 'x' } } })
    const bench = kept('bench.many', { faults: ['undercharge'] })
    bench.value.faults.push('dirty_condenser')
    await nextTick()
    expect(everything()).toContain('dirty_condenser')
    await logOut()
    expect(everything()).not.toContain('undercharge')
    expect(assign).toHaveBeenCalledWith('/')
  })

  it('is gone too where the log-in had run out, and stays while the server cannot be reached', async () => {
    const refused = { error: { error: { code: 'log_in', field: null, message: 'please log in' } } }
    serve({ DELETE: { '/api/v1/session': () => Promise.reject(new Error('no line')) } })
    store.set('bench.many', '"low charge"')
    await expect(logOut()).rejects.toThrow()
    expect(everything()).toContain('low charge')
    expect(assign).not.toHaveBeenCalled()
    serve({ DELETE: { '/api/v1/session': () => Promise.resolve(refused) } })
    await logOut()
    expect(everything()).not.toContain('low charge')
    expect(assign).toHaveBeenCalledWith('/')
  })

  it('stays over an expired log-in of the same account', async () => {
    serve({ GET: { '/api/v1/session': { user: USER, csrf: 'x' } } })
    takeOver('teacher', 'S')
    store.set('class.draft', '"half a class"')
    await readSession()
    expect(store.get('class.draft')).toBe('"half a class"')
    expect(reload).not.toHaveBeenCalled()
  })

  it('is not shown to another account that logs in at the same computer', async () => {
    serve({ GET: { '/api/v1/session': { user: { ...USER, login: 'apprentice' }, csrf: 'x' } } })
    takeOver('teacher', 'S')
    store.set('bench.many', '"low charge"')
    await readSession()
    expect(everything()).not.toContain('low charge')
    expect(reload).toHaveBeenCalledOnce()
  })

  it('is nothing at all on a shared computer, though the page itself goes on', async () => {
    store.set('old', '"left by somebody"')
    setShared(true)
    const form = kept('readings', { text: '' })
    form.value.text = 'low charge'
    await nextTick()
    expect(everything()).not.toContain('low charge')
    expect(everything()).not.toContain('left by somebody')
    expect(kept('readings', { text: '' }).value.text).toBe('low charge')
  })
})
