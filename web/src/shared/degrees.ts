/** Temperatures are kept in °F and shown in the units of the screen. */
import { units } from './kept'

export const unitF = (): string => (units.value === 'us' ? '°F' : '°C')
/** A kept temperature as it is shown, to the tenth. */
export const shownF = (f: number): number => Math.round((units.value === 'us' ? f : (f - 32) / 1.8) * 10) / 10
/** A shown temperature as it is kept. */
export const keptF = (shown: number): number => (units.value === 'us' ? shown : shown * 1.8 + 32)
export const textF = (f: number): string => (units.value === 'us' ? `${shownF(f)} °F` : `${shownF(f).toFixed(1)} °C`)
