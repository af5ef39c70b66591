<script setup lang="ts">
/** What the readings say: the verdict, what is left open, the figures behind it, and what to do next. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { units } from '@/shared/kept'

const props = defineProps<{ reply: Schemas['DiagnosisReply'] }>()
defineEmits<{ go: [kind: string, step: string] }>()
/** A figure that lies so near an edge of its target is told from it by the tenth. */
const CLOSE = 0.75
const figures = computed(() => {
  const found = props.reply.computed
  const k = units.value === 'us' ? 1 : 1 / 1.8
  const rows = [
    ['superheat', 'Superheat', found.superheat_df],
    ['subcooling', 'Subcooling', found.subcooling_df],
    ['evaporator_td', 'Evaporator TD', found.evaporator_td_df],
    ['ctoa', 'CTOA', found.ctoa_df],
    ['drier_drop', 'Drier drop', found.drier_drop_df],
    ['air_delta_t', 'Air delta-T', found.air_delta_t_df],
    ['evaporator_superheat', 'Superheat at the coil', found.evaporator_superheat_df],
  ] as const
  return rows.flatMap(([id, label, value]) => {
    if (typeof value !== 'number') return []
    const band = found.targets[`${id}_df`]
    const edge = (v: number) =>
      Math.abs(value - v) < CLOSE || units.value === 'si' ? (v * k).toFixed(1) : String(Math.round(v * k))
    const low = id === 'drier_drop' ? 'up' : band && edge(band[0] ?? 0)
    return [
      {
        id,
        label,
        text: (value * k).toFixed(1),
        band: band && `${low} to ${edge(band[1] ?? 0)}`,
        verdict: found.verdicts[id] ?? '',
      },
    ]
  })
})
const contradictions = computed(() => props.reply.computed.contradictions ?? [])
const shown = computed(() => props.reply.ranked.filter((r, i) => i < 3 || r.weight >= 0.03).slice(0, 7))
const first = computed(() => props.reply.ranked[0])
const nameOf = (id: string) => props.reply.ranked.find((r) => r.fault === id)?.name ?? id
const open = computed(() => props.reply.left_open.map(nameOf).slice(0, 3))
const NO_ANSWER = ['not_settled', 'not_enough_readings']
const bare = computed(() => NO_ANSWER.includes(first.value?.fault ?? ''))
/** How sure: a word beside the number. */
const sure = computed(() => {
  const w = first.value?.weight ?? 0
  return w >= 0.85 ? 'Almost certainly' : w >= 0.6 ? 'Most likely' : w >= 0.35 ? 'Perhaps' : 'Open; first of several:'
})
</script>

<template>
  <div class="card verdict" role="status" data-test="verdict">
    <small v-if="!bare">{{ sure }}</small>
    <p class="name">
      {{ first?.name }}<span v-if="!bare" class="num"> {{ Math.round(100 * (first?.weight ?? 0)) }} %</span>
    </p>
    <p v-if="open.length && !bare">Still open: {{ open.join(' · ') }}</p>
  </div>
  <div class="card next">
    <h2>Next</h2>
    <button
      v-if="reply.next_steps[0]"
      type="button"
      class="step"
      data-test="next"
      @click="$emit('go', reply.next_steps[0].kind, reply.next_steps[0].id)"
    >
      {{ reply.next_test }} <b>Record it ›</b>
    </button>
    <p v-else data-test="next">Nothing would tell more: act.</p>
    <p v-if="reply.next_steps.length > 1" class="soft then">
      then
      <button v-for="s in reply.next_steps.slice(1, 4)" :key="s.id" type="button" @click="$emit('go', s.kind, s.id)">
        {{ s.text }}
      </button>
    </p>
  </div>
  <div class="card figures" aria-label="Worked out">
    <div v-for="f in figures" :key="f.id" class="figure">
      <span>{{ f.label }}</span><b class="num">{{ f.text }}</b
      ><small class="num">{{ f.band ?? '' }}</small
      ><em :class="f.verdict">{{ f.verdict.toUpperCase() }}</em>
    </div>
    <p v-if="!figures.length" class="soft">
      Superheat needs suction pressure and suction line, subcooling needs head pressure and liquid line.
    </p>
  </div>
  <p v-for="c in contradictions" :key="c" class="card warn">{{ c }}</p>
  <ol class="card ranked" data-test="ranked">
    <li v-for="(r, i) in shown" :key="r.fault">
      <div class="head">
        <b>{{ r.name }}</b><span class="num">{{ Math.round(100 * r.weight) }} %</span>
      </div>
      <div class="bar"><i :style="{ width: `${100 * r.weight}%` }" /></div>
      <ul v-if="i < 3 && (r.reasons.length || r.against.length)">
        <li v-for="s in r.reasons" :key="s" class="for">{{ s }}</li>
        <li v-for="s in r.against" :key="s" class="against">{{ s }}</li>
      </ul>
    </li>
  </ol>
  <p class="soft careful">
    Weights are what a careful technician would bet, not a service instruction: local codes and licensed practice come
    first.
  </p>
</template>

<style scoped>
.verdict {
  border-left: 6px solid var(--violet);
  padding: 10px 16px;
}
.verdict small {
  color: var(--ink-mid);
}
.verdict .name {
  margin: 0;
  font-weight: 700;
  font-size: 24px;
  line-height: 1.2;
}
.verdict .name .num {
  margin-left: 10px;
  font-size: 18px;
  color: var(--ink-mid);
}
.verdict p {
  margin: 4px 0 0;
  font-size: 13.5px;
}
.step,
.then button {
  border: 0;
  background: none;
  color: var(--ink);
  text-align: left;
  font: inherit;
  padding: 2px 0;
  min-height: 24px;
  cursor: pointer;
}
.step b,
.then button {
  color: var(--violet);
}
.then button {
  text-decoration: underline;
  margin-right: 10px;
}
.careful {
  margin: 0;
  font-size: 12px;
}
h2 {
  margin: 8px 0 3px;
  display: flex;
  gap: 10px;
  align-items: baseline;
}
h2:first-child {
  margin-top: 0;
}
h2 small {
  font-weight: 400;
  font-size: 12px;
  text-transform: none;
  letter-spacing: 0;
}
.figures {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 6px 14px;
  padding: 10px 14px;
}
.figure {
  display: grid;
  grid-template-columns: 1fr auto;
  font-size: 12.5px;
}
.figure b {
  font-size: 16px;
}
.figure small {
  color: var(--ink-mid);
}
.figure em {
  font-style: normal;
  font-weight: 700;
  text-align: right;
}
.figure em.low,
.figure em.high {
  color: var(--amber-deep);
}
.figure em.normal {
  color: var(--good);
}
.figures p {
  grid-column: 1 / -1;
  margin: 0;
}
.warn {
  border-left: 5px solid var(--amber);
  margin: 0;
  padding: 6px 12px;
  font-size: 13.5px;
}
.ranked {
  list-style: none;
  margin: 0;
  padding: 10px 14px;
  display: flex;
  flex-direction: column;
  gap: 7px;
}
.head {
  display: flex;
  justify-content: space-between;
  font-size: 14.5px;
}
.bar {
  height: 6px;
  background: var(--violet-edge);
  border-radius: 3px;
}
.bar i {
  display: block;
  height: 6px;
  background: var(--violet);
  border-radius: 3px;
}
.ranked ul {
  list-style: none;
  margin: 3px 0 0;
  padding: 0;
  font-size: 12.5px;
}
.for::before {
  content: '+ ';
  font-weight: 700;
  color: var(--good);
}
.against::before {
  content: '− ';
  font-weight: 700;
  color: var(--amber-deep);
}
.next {
  padding: 8px 14px;
}
.next p {
  margin: 0 0 3px;
  font-size: 14px;
}
.next p.soft {
  font-size: 12px;
}
@media print {
  .step b {
    display: none;
  }
}
</style>
