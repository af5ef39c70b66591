/** The title of the tab: the thing that stands on the page, or the room. */
export function called(name: string): void {
  document.title = `${name} · Wolfsbane`
}
