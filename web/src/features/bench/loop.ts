import type { Schemas } from '@/api/client'

type Corner = Schemas['Corner']
export interface Gathered {
  at: Corner
  corners: Corner[]
  text: string
  low: boolean
}

/** Corners so close that their marks would cover one another share one mark: "3–5". `width` is the loop's in enthalpy. */
export function gathered(corners: Corner[], width: number): Gathered[] {
  const near = (a: Corner, b: Corner) =>
    Math.abs(a.enthalpy - b.enthalpy) < 0.06 * width && Math.abs(Math.log(a.pressure / b.pressure)) < 0.09
  const groups: { numbers: number[]; corners: Corner[] }[] = []
  corners.forEach((corner, i) => {
    const home = groups.find((g) => g.corners.every((c) => near(c, corner)))
    if (home) {
      home.numbers.push(i + 1)
      home.corners.push(corner)
    } else groups.push({ numbers: [i + 1], corners: [corner] })
  })
  return groups.map(({ numbers, corners: own }) => {
    const first = numbers[0] ?? 1
    const last = numbers.at(-1) ?? first
    const text =
      numbers.length === 1
        ? String(first)
        : last - first === numbers.length - 1
          ? `${first}–${last}`
          : numbers.join('·')
    return { at: own[0] as Corner, corners: own, text, low: first === 1 || first > 5 }
  })
}
