import createClient, { type Middleware } from 'openapi-fetch'
import { ref } from 'vue'
import type { components, paths } from './schema'

export type Schemas = components['schemas']

let csrf = ''
/** True after the server said that nobody is logged in; the page below keeps its state. */
export const loggedOut = ref(false)

export function setCsrf(token: string): void {
  csrf = token
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRF-Token', csrf)
    return request
  },
  onResponse({ response }) {
    if (response.status === 401 && !response.url.endsWith('/session')) loggedOut.value = true
    return response
  },
}

export const api = createClient<paths>({ baseUrl: '/' })
api.use(guard)

/** The sentence to show for a failed call: the server's own, or that it could not be reached. */
export function problem(error: unknown): string {
  const body = error as { error?: { message?: string } } | undefined
  return body?.error?.message ?? 'The server did not answer. What you typed is kept; try again.'
}

/** Run a call; returns its data, or throws an Error with the sentence to show. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let reply: { data?: T; error?: unknown }
  try {
    reply = await call
  } catch (failure) {
    if (failure instanceof DOMException && failure.name === 'AbortError') throw failure
    throw new Error(problem(undefined))
  }
  if (reply.data === undefined || reply.error !== undefined) throw new Error(problem(reply.error))
  return reply.data
}
