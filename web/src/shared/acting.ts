import type { Ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { units } from '@/shared/kept'

/** One step of the work: what is done, with how much. */
export interface Done {
  do: string
  arguments: Record<string, number | string | null>
}

/** Acting on a machine: what it allows, the steps so far, and the hands to do and undo them. */
export interface Acting {
  actions: Ref<Schemas['ActionRow'][]>
  steps: Ref<Done[]>
  act: (action: string, given?: Done['arguments']) => void
  undo: () => void
  restart: () => void
  busy: Ref<boolean>
}

/** What a machine allows: its actions, and the doors and troubles its room can have. */
export function allowed(machine_id: string): Promise<Schemas['ActionList']> {
  return ask(
    api.GET('/api/v1/actions/{machine_id}', { params: { path: { machine_id }, query: { units: units.value } } }),
  )
}
