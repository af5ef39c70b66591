import { vi, type Mock } from 'vitest'
import { api } from '@/api/client'

/** What a request carries, as far as a test looks at it. */
export interface Sent {
  body: never
  params: { path: never; query: never }
}
/** Data to reply with, or what works it out from the request; a promise of `{ data }` or `{ error }` is passed on as it is. */
export type Answer = object | ((sent: Sent) => unknown)
type Method = 'GET' | 'POST' | 'PUT' | 'DELETE'

/**
 * Answers of the server by method and path. A path that nobody answers fails the request with a sentence that names it,
 * so that a late request of something else never slips into a test's own.
 */
export function serve(answers: Partial<Record<Method, Record<string, Answer>>>): Record<Method, Mock> {
  const spies = {} as Record<Method, Mock>
  for (const method of ['GET', 'POST', 'PUT', 'DELETE'] as const) {
    spies[method] = vi.spyOn(api, method).mockImplementation(((path: string, init: unknown) => {
      const answer = answers[method]?.[path]
      if (answer === undefined) return Promise.reject(new Error(`nobody answers ${method} ${path}`))
      const said: unknown =
        typeof answer === 'function' ? (answer as (sent: unknown) => unknown)(init) : { data: answer }
      return Promise.resolve(said)
    }) as never)
  }
  return spies
}

/** The requests to one path, oldest first. */
export function asked(spy: Mock, path: string): Sent[] {
  return spy.mock.calls.filter(([p]) => p === path).map(([, init]) => init as Sent)
}
