import { store } from '@/shared/store'
import type { Router } from 'vue-router'
import type { Schemas } from '@/api/client'
import { depthOf } from '@/shared/circuit/circuit'
import { BLANK, type BenchState } from '@/shared/planted'

interface Start {
  machine: string
  faults?: { id: string; severity: number }[]
  weather?: Record<string, number>
}

/** Go to the bench with a machine and its faults as a scenario of its own: the one that was open there stays as it was
 * saved. */
export async function startOnBench(router: Router, catalogue: Schemas['CatalogueReply'], at: Start): Promise<void> {
  const machine = catalogue.machines.find((m) => m.id === at.machine)
  const faults = (at.faults ?? []).flatMap((f) => {
    const kind = catalogue.faults.find((k) => k.id === f.id && k.unit && k.machines.includes(at.machine))
    if (!kind) return []
    const sized = machine?.receiver && kind.with_receiver ? { ...kind, ...kind.with_receiver } : kind
    return [
      {
        id: f.id,
        depth: Math.min(Math.max(depthOf(f.severity, sized.fault_free ?? 0, sized.limit ?? 0), 0), 100),
        cause: kind.causes[0]?.id ?? null,
      },
    ]
  })
  const weather = Object.fromEntries(
    (machine?.weather ?? []).map((w) => [w.field, Math.min(Math.max(at.weather?.[w.field] ?? w.rated, w.low), w.high)]),
  )
  const now = JSON.parse(store.get('bench.many') ?? '{}') as Partial<BenchState>
  const state: Partial<BenchState> = {
    ...now,
    machine: at.machine,
    faults,
    weather,
    given: [],
    readings: null,
    title: '',
    tags: '',
    story: { ...BLANK },
  }
  store.set('bench.many', JSON.stringify(state))
  store.set('bench.opened', JSON.stringify({ now: null }))
  await router.push('/bench')
}
