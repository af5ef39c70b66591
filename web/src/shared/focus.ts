import type { Directive } from 'vue'

/** The field one types into first: it takes the focus when its form opens. */
export const vFocus: Directive<HTMLElement> = {
  mounted: (el) =>
    (el.matches('input, textarea') ? el : (el.querySelector<HTMLElement>('input, textarea') ?? el)).focus(),
}
