import type { Schemas } from '@/api/client'

/** One gauge as the server draws it; the bench adds what it converts to and what it would read with nothing wrong. */
export type Drawing = Omit<Schemas['DialDrawing'], 'saturation' | 'fault_free_value'>
