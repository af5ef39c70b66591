import { ref } from 'vue'
import { api, ask, FailedRequest, loggedOut, setCsrf, type Schemas } from '@/api/client'
import { store, takeOver, wipe } from './store'

export const user = ref<Schemas['User'] | null>(null)
export const known = ref(false)
/** Whether several schools share this server, so that the school is asked for at the log-in. */
export const asksSchool = ref(false)
/** What the school's own log-in is called, where there is one. */
export const provider = ref('')
const whoIs = (of: Schemas['User'] | null | undefined) => (of ? `${of.login} ${of.school}` : undefined)

function take(reply: Schemas['SessionReply']): void {
  // what somebody else left half done here is not shown, and no part of it stands in memory
  if (reply.user && takeOver(reply.user.login, reply.user.school)) window.location.reload()
  user.value = reply.user ?? null
  if (reply.user) store.set('me', JSON.stringify(reply.user))
  else store.remove('me')
  unproved.value = false
  if (!reply.user) asksSchool.value = reply.asks_school ?? false
  provider.value = reply.provider || provider.value
  setCsrf(reply.csrf)
  loggedOut.value = false
  known.value = true
}

/** The page came up without a line: who is here is known from before, and asked as soon as the line is back. */
export const unproved = ref(false)

export async function readSession(): Promise<void> {
  try {
    take(await ask(api.GET('/api/v1/session')))
  } catch (error) {
    const me = error instanceof FailedRequest && !error.code ? store.get('me') : null
    if (me === null) throw error
    user.value = JSON.parse(me) as Schemas['User']
    known.value = true
    unproved.value = true
  }
}

/** Whoever logs in again after a log-in ran out finds the page below as it was: it stays while this goes on. */
export async function logIn(login: string, password: string, school = '', code = ''): Promise<void> {
  const before = whoIs(user.value)
  await freshToken()
  take(await ask(api.POST('/api/v1/session', { body: { login, password, school, code } })))
  // somebody else: nothing of what stood there is theirs
  if (before !== undefined && before !== whoIs(user.value)) window.location.assign('/')
}

/** What a student reads in from now on; the page comes up again in it. */
export async function chooseLanguage(language: 'en' | 'es'): Promise<void> {
  take(await ask(api.PUT('/api/v1/session/language', { body: { language } })))
  window.location.reload()
}

async function freshToken(): Promise<void> {
  const reply = await ask(api.GET('/api/v1/session'))
  asksSchool.value = reply.asks_school ?? false
  setCsrf(reply.csrf)
}

/** Whom a one-time code lets in. */
export async function whoseCode(code: string): Promise<Schemas['WelcomeReply']> {
  await freshToken()
  return ask(api.POST('/api/v1/session/welcome', { body: { code } }))
}

/** Choose a password by a one-time code, and be logged in. */
export async function enterByCode(code: string, password: string): Promise<void> {
  take(await ask(api.PUT('/api/v1/session/welcome', { body: { code, password } })))
}

/** A new password for oneself; the session goes on with a new token. */
export async function changePassword(old: string, password: string): Promise<void> {
  take(await ask(api.PUT('/api/v1/session/password', { body: { old, password } })))
}

export async function logOut(): Promise<void> {
  try {
    await ask(api.DELETE('/api/v1/session'))
  } catch (error) {
    // a log-in that has run out is as good as logged out
    if (!(error instanceof FailedRequest && error.code === 'log_in')) throw error
  }
  // the page goes with what it still holds: the fault of the bench is nobody's who sits down here next
  wipe()
  window.location.assign('/')
}

/** The time of day of a moment, in the school's own time zone. */
export function clockTime(iso: string, locale: string | undefined = undefined): string {
  return new Intl.DateTimeFormat(locale, { timeStyle: 'short', timeZone: user.value?.time_zone ?? 'UTC' }).format(
    new Date(iso),
  )
}
/** A moment in the school's own time zone, written as the reader's browser writes dates. */
export function localTime(iso: string, locale: string | undefined = undefined): string {
  return new Intl.DateTimeFormat(locale, {
    dateStyle: 'medium',
    timeStyle: 'short',
    timeZone: user.value?.time_zone ?? 'UTC',
  }).format(new Date(iso))
}
