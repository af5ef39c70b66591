import { describe, expect, it } from 'vitest'
import { ask, FailedRequest, problem, sentence } from '@/api/client'
import { localTime, user } from '@/shared/session'

const refused = { error: { code: 'marked_meanwhile', message: 'somebody else just typed “9”', field: 'superheat' } }

describe('a request', () => {
  it('gives its data', async () => {
    await expect(ask(Promise.resolve({ data: { n: 3 } }))).resolves.toEqual({ n: 3 })
  })

  it('that is refused throws the sentence with the code and the field of the server', async () => {
    const failure = await ask(Promise.resolve({ error: refused })).catch((error: unknown) => error)
    expect(failure).toBeInstanceOf(FailedRequest)
    expect(failure).toMatchObject({ code: 'marked_meanwhile', field: 'superheat' })
    expect(sentence(failure)).toBe('somebody else just typed “9”')
  })

  it('that nobody answers says that nothing is lost, and keeps why', async () => {
    const cause = new TypeError('Failed to fetch')
    const failure = await ask(Promise.reject(cause)).catch((error: unknown) => error)
    expect(sentence(failure)).toBe(problem(undefined))
    expect(failure).toMatchObject({ code: '', cause })
  })

  it('that was given up is passed on as such, since nothing went wrong', async () => {
    const stopped = new DOMException('stopped', 'AbortError')
    await expect(ask(Promise.reject(stopped))).rejects.toBe(stopped)
  })

  it('without data counts as failed', async () => {
    await expect(ask(Promise.resolve({}))).rejects.toBeInstanceOf(FailedRequest)
  })
})

describe('a sentence', () => {
  it.each([
    [new Error('three words here'), 'three words here'],
    ['a string was thrown', problem(undefined)],
    [undefined, problem(undefined)],
  ])('is made of %s', (thrown, said) => {
    expect(sentence(thrown)).toBe(said)
  })
})

describe('a moment', () => {
  it("is written in the school's time zone, as the reader's locale writes it", () => {
    const at = '2026-11-28T06:11:00+00:00'
    user.value = { time_zone: 'America/Denver' } as never
    const plain = (text: string) => text.replace(/\s/g, ' ')
    expect(plain(localTime(at, 'en-US'))).toBe('Nov 27, 2026, 11:11 PM')
    expect(plain(localTime(at, 'en-GB'))).toBe('27 Nov 2026, 23:11')
    user.value = null
    expect(plain(localTime(at, 'en-US'))).toBe('Nov 28, 2026, 6:11 AM')
  })
})
