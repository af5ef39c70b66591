/**
 * What a student reads in their own language. The English text is the key of a message; a catalog has the rest, and what
 * it does not have stays English. Texts of a machine come from the server in that language already.
 */
import { computed } from 'vue'
import es from './es.json'
import { user } from './session'

const CATALOGS: Record<string, Record<string, string>> = { es }
export const LANGUAGES = [
  ['en', 'English'],
  ['es', 'Español'],
] as const
export const language = computed(() => user.value?.language ?? 'en')

/** A text in the language of whoever is here; `{names}` in it stand for what is given. */
export function tr(english: string, given: Record<string, string | number> = {}): string {
  const text = CATALOGS[language.value]?.[english] ?? english
  return text.replace(/\{(\w+)\}/g, (_, name: string) => String(given[name] ?? `{${name}}`))
}
