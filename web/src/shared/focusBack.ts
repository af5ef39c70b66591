/** Where the focus goes when what had it is gone: back to the nearest place around it that still stands. */

const PLACES =
  'section, fieldset, form, dialog, main, figure, table, ul, ol, details, [role=dialog], [role=region], [role=tabpanel]'
/** Focused elements that are remembered, the last one first: a dialog is closed after what opened it has gone. */
const KEPT = 4

interface Held {
  element: HTMLElement
  around: HTMLElement[]
}
const usable = (element: HTMLElement) =>
  element.isConnected && !element.matches(':disabled') && element.closest('[inert]') === null

function around(element: HTMLElement): HTMLElement[] {
  const found: HTMLElement[] = []
  for (let at = element.parentElement; at; at = at.parentElement) if (at.matches(PLACES)) found.push(at)
  return found
}
function stand(place: HTMLElement): void {
  if (!place.hasAttribute('tabindex')) {
    place.setAttribute('tabindex', '-1')
    place.addEventListener('blur', () => place.removeAttribute('tabindex'), { once: true })
  }
  place.focus({ preventScroll: true })
}

/** Watches a document until the function it gives back is called. A click beside everything is left alone: what had the
 * focus still stands then. */
export function keepFocus(doc: Document): () => void {
  let held: Held[] = []
  let waits: HTMLElement | null = null
  const remember = (event: FocusEvent) => {
    const element = event.target as HTMLElement
    held = [{ element, around: around(element) }, ...held.filter((h) => h.element !== element)].slice(0, KEPT)
  }
  const look = () => {
    const [last] = held
    if (!last) return
    if (doc.activeElement !== doc.body && doc.activeElement !== null) {
      // out of use already, and about to lose the focus: it may be back in use before anybody looks again
      if (doc.activeElement === last.element && last.element.closest('[inert]') !== null) waits = last.element
      return
    }
    if (usable(last.element)) {
      // it was only out of use while it worked
      if (waits === last.element) last.element.focus({ preventScroll: true })
      waits = null
      return
    }
    if (last.element.isConnected && last.element.matches(':disabled')) {
      waits = last.element
      return
    }
    const place = held.flatMap((h) => h.around).find(usable) ?? doc.querySelector('main')
    held = []
    if (place instanceof HTMLElement) stand(place)
  }
  let planned = false
  const watcher = new MutationObserver(() => {
    queueMicrotask(look)
    // what turns inert or disabled loses the focus with the next frame only
    if (planned) return
    planned = true
    requestAnimationFrame(() =>
      requestAnimationFrame(() => {
        planned = false
        look()
      }),
    )
  })
  watcher.observe(doc.body, {
    subtree: true,
    childList: true,
    attributes: true,
    attributeFilter: ['disabled', 'inert'],
  })
  doc.addEventListener('focusin', remember)
  return () => {
    watcher.disconnect()
    doc.removeEventListener('focusin', remember)
  }
}
