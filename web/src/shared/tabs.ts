/** Arrow keys in a row of tabs: on to the next one, Home and End to the ends. The tab that is chosen takes the focus. */
export function arrows(event: KeyboardEvent): void {
  const list = event.currentTarget as HTMLElement
  const tabs = [...list.querySelectorAll<HTMLElement>('[role=tab]')]
  const at = tabs.indexOf(document.activeElement as HTMLElement)
  const to = {
    ArrowRight: at + 1,
    ArrowDown: at + 1,
    ArrowLeft: at - 1,
    ArrowUp: at - 1,
    Home: 0,
    End: tabs.length - 1,
  }
  const next = to[event.key as keyof typeof to]
  if (at < 0 || next === undefined) return
  event.preventDefault()
  const tab = tabs[(next + tabs.length) % tabs.length]
  tab?.focus()
  tab?.click()
}
