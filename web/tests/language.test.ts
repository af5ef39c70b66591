import { afterEach, describe, expect, it } from 'vitest'
import { HOUSE } from '@/features/screen/places'
import es from '@/shared/es.json'
import { tr } from '@/shared/language'
import { user } from '@/shared/session'

const SOURCES = import.meta.glob('../src/**/*.{vue,ts}', { query: '?raw', import: 'default', eager: true })
const read = (language: 'en' | 'es') =>
  (user.value = {
    login: 'a',
    name: 'A',
    role: 'apprentice',
    school: 'S',
    time_zone: 'UTC',
    must_change: false,
    totp: false,
    language,
  })

describe('what a student reads in Spanish', () => {
  afterEach(() => (user.value = null))

  it('says a text in the language of whoever is here, and what it does not have in English', () => {
    read('es')
    expect(tr('No line. {n} kept here, sent later.', { n: 3 })).toBe(
      'Sin conexión. 3 guardados aquí, se envían después.',
    )
    expect(tr('Nobody wrote this down')).toBe('Nobody wrote this down')
    read('en')
    expect(tr('{n} steps', { n: 4 })).toBe('4 steps')
  })
  it('has every text that a page asks for', () => {
    const asked = Object.values(SOURCES).flatMap((text) =>
      [...String(text).matchAll(/\btr\(\s*(?:'((?:[^'\\]|\\.)*)'|`([^`$]*)`)/g)].map((m) =>
        (m[1] ?? m[2] ?? '').replace(/\\'/g, "'"),
      ),
    )
    expect(asked.length).toBeGreaterThan(60)
    const words = [...asked, ...Object.values(HOUSE).map((place) => place.name)]
    expect(words.filter((text) => !(text in es))).toEqual([])
  })
  it('keeps what stands for something else', () => {
    const names = (text: string) => [...text.matchAll(/\{(\w+)\}/g)].map((m) => m[1]).sort()
    for (const [english, spanish] of Object.entries(es)) expect(names(spanish), english).toEqual(names(english))
  })
})
