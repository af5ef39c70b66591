/**
 * What this browser keeps between pages: forms half filled in, what was picked. It belongs to one account and is gone
 * when it logs out; on a shared computer nothing is written down at all.
 */
const PREFIX = 'wolfsbane.'
/** Whose it is, and that nothing is to be kept: the second lasts as long as the window. */
const OWNER = 'wolfsbane.owner'
const SHARED = 'wolfsbane.shared'
/** No answer stands in these. */
const STAYS = new Set(['wolfsbane.units'])

const memory = new Map<string, string>()
export const isShared = (): boolean => sessionStorage.getItem(SHARED) === '1'

export const store = {
  get: (key: string): string | null =>
    isShared() ? (memory.get(PREFIX + key) ?? null) : localStorage.getItem(PREFIX + key),
  set(key: string, value: string): void {
    if (isShared()) memory.set(PREFIX + key, value)
    else localStorage.setItem(PREFIX + key, value)
  },
  remove(key: string): void {
    memory.delete(PREFIX + key)
    localStorage.removeItem(PREFIX + key)
  },
}

/** Nothing of anybody is left here. */
export function wipe(): void {
  memory.clear()
  for (const name of Object.keys(localStorage))
    if (name.startsWith(PREFIX) && !STAYS.has(name)) localStorage.removeItem(name)
}

/** From now on this computer is, or is not, one that others use too. */
export function setShared(shared: boolean): void {
  if (shared) {
    wipe()
    localStorage.removeItem(PREFIX + 'units')
    sessionStorage.setItem(SHARED, '1')
  } else sessionStorage.removeItem(SHARED)
}

/** Whoever is logged in takes over what is here: true where it was somebody else's, and is gone now. */
export function takeOver(login: string, school: string): boolean {
  if (isShared()) return false
  const before = localStorage.getItem(OWNER)
  const whole = `${login} ${school}`
  if (before === whole) return false
  // earlier releases wrote down the log-in alone
  const foreign = before !== null && before !== login
  if (foreign) wipe()
  localStorage.setItem(OWNER, whole)
  return foreign
}
