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

/** A request that failed: the sentence to show, with the server's code and the field it names. */
export class FailedRequest extends Error {
  constructor(
    message: string,
    readonly code = '',
    readonly field: string | null = null,
    options?: ErrorOptions,
  ) {
    super(message, options)
  }
}

function failed(error: unknown, cause?: unknown): FailedRequest {
  const body = error as { error?: { code?: string; field?: string | null } } | undefined
  return new FailedRequest(problem(error), body?.error?.code, body?.error?.field, { cause })
}

/** The sentence to show for whatever was thrown. */
export function sentence(error: unknown): string {
  return error instanceof Error ? error.message : problem(undefined)
}

/** The same with the field called as the screen calls it; `labels` by the key that was sent. */
export function named(error: unknown, labels: Record<string, string>): string {
  const said = sentence(error)
  const field = error instanceof FailedRequest ? error.field : null
  const label = field ? labels[field.split('.').pop() ?? ''] : undefined
  return field && label && said.startsWith(field) ? `${label}:${said.slice(field.length)}` : said
}

/** Run a call; returns its data, or throws a FailedRequest with the sentence to show. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let reply: { data?: T; error?: unknown }
  try {
    reply = await call
  } catch (failure) {
    if (failure instanceof DOMException && failure.name === 'AbortError') throw failure
    throw failed(undefined, failure)
  }
  if (reply.data === undefined || reply.error !== undefined) throw failed(reply.error)
  return reply.data
}
