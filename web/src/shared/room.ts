import type { ComputedRef, Ref } from 'vue'
import type { Schemas } from '@/api/client'

/** A room that answers to the machine; start and set in the units shown, null as the conditions say. */
export interface LivingRoom {
  lives: boolean
  start: number | null
  set: number | null
  door: string
  troubles: string[]
}
export const HELD: LivingRoom = { lives: false, start: null, set: null, door: 'usual', troubles: [] }

/** What the panel of a room needs: the choices, and the settings as they were read off. */
export interface Living {
  room: Ref<LivingRoom>
  doors: Ref<string[]>
  troubles: Ref<Schemas['TroubleRow'][]>
  reply: Ref<Schemas['ActReply'] | null> | ComputedRef<Schemas['ActReply'] | null>
}

/** The room as the server is asked for it: nothing where conditions are held, no trouble that this machine cannot have. */
export function asked(room: LivingRoom, troubles: Schemas['TroubleRow'][]): Schemas['RoomBody'] | null {
  if (!room.lives) return null
  const known = new Set(troubles.map((t) => t.id))
  const number = (v: number | null) => (typeof v === 'number' && Number.isFinite(v) ? v : null)
  return {
    start: number(room.start),
    set: number(room.set),
    door: room.door,
    troubles: room.troubles.filter((id) => known.has(id)),
  }
}
