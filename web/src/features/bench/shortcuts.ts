import { onBeforeUnmount, onMounted, ref, type Ref } from 'vue'
import { kept } from '@/shared/kept'

export interface Shortcut {
  keys: string
  does: string
  run: () => void
}
export interface Shortcuts {
  open: Ref<boolean>
  on: Ref<boolean>
}

const TEXT = 'input:not([type=range]):not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable]'

/** Whether a key is meant for what has the focus rather than for the page. */
export function typing(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest(TEXT) !== null
}

/** The name of a key press as the list writes it: "z", "Shift+Z", "?". */
export function named(event: Pick<KeyboardEvent, 'key' | 'shiftKey' | 'ctrlKey' | 'metaKey' | 'altKey'>): string {
  if (event.altKey) return ''
  const key = event.key.length === 1 ? event.key : ''
  if (event.ctrlKey || event.metaKey) return `Ctrl+${event.shiftKey ? 'Shift+' : ''}${key.toUpperCase()}`
  return event.shiftKey && /[a-z]/i.test(key) ? `Shift+${key.toUpperCase()}` : key.toLowerCase()
}

/** Single keys of a page, off while one types and when switched off for good. Ctrl+Z and its kin stay on. */
export function useShortcuts(list: Shortcut[]): Shortcuts {
  const open = ref(false)
  const on = kept('shortcuts', true)
  function pressed(event: KeyboardEvent): void {
    if (typing(event.target) || event.defaultPrevented) return
    const name = named(event)
    if (!name || (!on.value && !name.startsWith('Ctrl+'))) return
    const found = list.find((s) => s.keys.split(' or ').includes(name))
    if (!found) return
    event.preventDefault()
    found.run()
  }
  onMounted(() => window.addEventListener('keydown', pressed))
  onBeforeUnmount(() => window.removeEventListener('keydown', pressed))
  return { open, on }
}
