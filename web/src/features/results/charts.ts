import type { Schemas } from '@/api/client'
import { INK } from '@/shared/ink'

export type Confusion = Schemas['ConfusionTable']
export type Step = Schemas['StepShare']
export type Call = Schemas['CallShare']

const font = { fontFamily: 'Archivo', color: INK.ink }

/** A name without what stands in brackets: it has to fit under a column. */
const short = (name: string) => name.replace(/ \(.*\)$/, '')

/** Planted against named as a picture of counts; right ones lie on the diagonal. */
export function confusionOption(confusion: Confusion): Record<string, unknown> {
  const names = confusion.faults.map((f) => f.name)
  const at = (id: string) => confusion.faults.findIndex((f) => f.id === id)
  const planted = confusion.planted.map((id) => names[at(id)] ?? id)
  const most = Math.max(1, ...confusion.cells.map((c) => c.count))
  const cell = (c: Confusion['cells'][number]) => ({
    value: [at(c.named), confusion.planted.indexOf(c.planted), c.count],
    itemStyle: { color: c.named === c.planted ? mix(INK.violet, c.count / most) : mix(INK.high, c.count / most) },
    label: { color: c.count / most > 0.45 ? INK.white : INK.ink },
  })
  return {
    textStyle: font,
    grid: { left: 8, right: 12, top: 8, bottom: 8, containLabel: true },
    xAxis: {
      type: 'category',
      data: names,
      name: '',
      axisLabel: {
        fontSize: 11,
        lineHeight: 13,
        color: INK.ink,
        interval: 0,
        formatter: short,
        ...(names.length > 6
          ? { rotate: 38, width: 120, overflow: 'truncate' }
          : { width: Math.min(120, Math.floor(430 / Math.max(names.length, 1))), overflow: 'break' }),
      },
      axisLine: { show: false },
      axisTick: { show: false },
    },
    yAxis: {
      type: 'category',
      data: planted,
      inverse: true,
      axisLabel: { fontSize: 11.5, lineHeight: 14, color: INK.ink, interval: 0, formatter: short },
      axisLine: { show: false },
      axisTick: { show: false },
    },
    tooltip: {
      formatter: (p: { value: [number, number, number] }) =>
        `${planted[p.value[1]]}, taken for ${names[p.value[0]]}: ${p.value[2]}`,
    },
    series: [
      {
        type: 'heatmap',
        data: confusion.cells.map(cell),
        label: {
          show: true,
          fontFamily: 'B612',
          fontWeight: 700,
          formatter: (p: { value: [number, number, number] }) => String(p.value[2]),
        },
        itemStyle: { borderColor: INK.card, borderWidth: 2 },
        animation: false,
      },
    ],
  }
}

/** Paper colour shaded towards `colour`; never so pale that it vanishes. */
export function mix(colour: string, share: number): string {
  const to = [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16))
  const from = [255, 253, 249]
  const k = 0.22 + 0.78 * Math.min(Math.max(share, 0), 1)
  return `rgb(${from.map((f, i) => Math.round(f + ((to[i] ?? 0) - f) * k)).join(',')})`
}

/** Progress over the term: the class, and one apprentice where one is picked. */
export function movementOption(
  sheets: { title: string; share: number }[],
  person: { name: string; shares: (number | null)[] } | null,
): Record<string, unknown> {
  const line = (name: string, data: (number | null)[], color: string, dashed = false) => ({
    type: 'line',
    name,
    data: data.map((v) => (v === null ? null : Math.round(v * 100))),
    connectNulls: true,
    symbolSize: 9,
    lineStyle: { color, width: 2.5, type: dashed ? 'dashed' : 'solid' },
    itemStyle: { color },
    animation: false,
    label: { show: true, formatter: '{c} %', fontSize: 11.5, color: INK.ink },
  })
  return {
    textStyle: font,
    grid: { left: 40, right: 30, top: 22, bottom: 40 },
    xAxis: {
      type: 'category',
      data: sheets.map((s) => s.title),
      axisLabel: { fontSize: 11.5, color: INK.ink, width: 140, overflow: 'truncate' },
    },
    yAxis: {
      type: 'value',
      min: 0,
      max: 100,
      axisLabel: { formatter: '{value} %', color: INK.soft },
      splitLine: { lineStyle: { color: INK.line } },
    },
    series: [
      line(
        'Class',
        sheets.map((s) => s.share),
        INK.violet,
      ),
      ...(person ? [line(person.name, person.shares, INK.amber, true)] : []),
    ],
  }
}

/** Words for how a call turned out against its stated level. */
export function levelWord(call: Call): string {
  if (call.stated === null || call.found === null) return ''
  const off = call.found - call.stated
  return off >= 1 ? 'harder than stated' : off <= -1 ? 'easier than stated' : 'as stated'
}

export type Picture = Schemas['ClassPicture']
