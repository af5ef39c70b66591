/** How much of a draft is drawn before it is issued: asked again and again while something is missing. */
import { onMounted, onUnmounted, ref, watch, type Ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'

/** Time between two questions, ms. */
const AGAIN = 1500

/** The state of a draft; null while what is on the screen is not with the server yet. */
export function useAhead(sheetId: number, saved: Ref<boolean>): Ref<Schemas['AheadReply'] | null> {
  const found = ref<Schemas['AheadReply'] | null>(null)
  const at = { params: { path: { sheet_id: sheetId } } }
  let timer = 0
  let gone = false

  async function look(first = false): Promise<void> {
    window.clearTimeout(timer)
    if (gone || !saved.value) return
    try {
      const now = await ask(
        first ? api.POST('/api/v1/sheets/{sheet_id}/ahead', at) : api.GET('/api/v1/sheets/{sheet_id}/ahead', at),
      )
      found.value = saved.value ? now : null
    } catch {
      // Issuing does not depend on it: who is off line sees it when the line is back.
    }
    const over = found.value !== null && (found.value.problem !== null || found.value.drawn >= found.value.of)
    if (!gone && !over) timer = window.setTimeout(() => void look(), AGAIN)
  }
  watch(saved, (now) => {
    if (now) void look()
    else found.value = null
  })
  onMounted(() => void look(true))
  onUnmounted(() => {
    gone = true
    window.clearTimeout(timer)
  })
  return found
}
