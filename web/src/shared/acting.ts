import type { Ref } from 'vue'
import type { Schemas } from '@/api/client'

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
