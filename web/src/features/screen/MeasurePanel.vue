<script setup lang="ts">
/** Gauges, clamps and the rest: put on, read, and what one reads is typed beside it. A dial shows a needle and no number. */
import { computed, ref } from 'vue'
import DialFace from '@/shared/DialFace.vue'
import type { Play, PlayShown } from './play'
import { tr } from '@/shared/language'

const props = defineProps<{ play: Play; proving: boolean }>()
const { run, busy, say } = props.play
const r = computed(() => run.value!)
const low = ref<'suction' | 'liquid' | 'off'>('suction')
const high = ref<'suction' | 'liquid' | 'off'>('liquid')
const machine = computed(() => r.value.steps.filter((s) => !s.refused))
const gauges = computed(() => {
  const last = machine.value.filter((s) => s.kind === 'gauges').at(-1)
  return (last?.data ?? { low: 'off', high: 'off' }) as { low: string; high: string }
})
const on = computed(() => gauges.value.low !== 'off' || gauges.value.high !== 'off')
const zeroed = computed(() => machine.value.find((s) => s.kind === 'zero'))
const namedAt = computed(() => r.value.steps.findIndex((s) => s.kind === 'name'))
const spots = computed(() => {
  const found: Record<string, string> = {}
  for (const s of machine.value) if (s.kind === 'clamp') found[s.data.pipe as string] = s.data.spot as string
  return found
})
/** The newest reading of each point; for the proof, one taken after the fault was named. */
const shown = computed(() => {
  const found: Record<string, PlayShown> = {}
  r.value.steps.forEach((s, n) => {
    if (s.kind === 'read' && s.reading && (!props.proving || n > namedAt.value)) found[s.data.point as string] = s
  })
  return found
})
const rows = computed(() => {
  const first = props.proving ? r.value.proofs : r.value.essential
  return [...r.value.points].sort((a, b) => Number(first.includes(b.point)) - Number(first.includes(a.point)))
})
const more = ref(false)
const listed = computed(() => {
  const first = props.proving ? r.value.proofs : r.value.essential
  return rows.value.filter((p) => more.value || first.includes(p.point) || shown.value[p.point])
})
const SPOTS = [
  ['clean', 'bare copper, wiped'],
  ['painted', 'painted stretch'],
  ['sun', 'where the sun is on it'],
] as const
const spot = ref<Record<string, string>>({})
const drawing = (s: PlayShown) => {
  const read = s.reading as { side: string; needle_deg: number; spoken: string }
  const face = r.value.dials.find((d) => d.side === read.side)
  return face ? { ...face, needle_deg: read.needle_deg, text: `: ${read.spoken}` } : null
}
const can = (p: { point: string; takes: string }) =>
  p.takes === 'hand' ||
  (p.takes === 'clamp' && (spots.value[p.point] ?? 'off') !== 'off') ||
  (p.takes === 'gauges' && (p.point === 'suction_pressure' ? gauges.value.low : gauges.value.high) !== 'off')
const typed = (point: string) => (props.proving ? r.value.proof[point] : r.value.answers[`read_${point}`]) ?? ''
function type(point: string, text: string): void {
  if (props.proving) say('proof', { point, text })
  else say('answer', { question: `read_${point}`, text })
}
const done = computed(() => r.value.finished || (r.value.named && !props.proving))
</script>

<template>
  <section class="card" aria-labelledby="measure">
    <h2 id="measure">{{ tr(proving ? 'Read again' : 'Measure') }}</h2>
    <div v-if="!r.sealed" class="gauges">
      <template v-if="!on">
        <el-button size="small" :disabled="busy || r.finished" data-test="zero" @click="say('zero')">{{
          tr(zeroed ? 'Zeroed' : 'Zero the gauges')
        }}</el-button>
        <label
          ><span>{{ tr('Low hose on') }}</span
          ><select v-model="low" data-test="low-port">
            <option value="suction">{{ tr('suction port') }}</option>
            <option value="liquid">{{ tr('liquid port') }}</option>
            <option value="off">{{ tr('nothing') }}</option>
          </select></label
        ><label
          ><span>{{ tr('High hose on') }}</span
          ><select v-model="high" data-test="high-port">
            <option value="liquid">{{ tr('liquid port') }}</option>
            <option value="suction">{{ tr('suction port') }}</option>
            <option value="off">{{ tr('nothing') }}</option>
          </select></label
        ><el-button
          size="small"
          type="primary"
          :disabled="busy || r.finished"
          data-test="gauges-on"
          @click="say('gauges', { low, high })"
          >{{ tr('Purge and connect') }}</el-button
        >
      </template>
      <el-button
        v-else
        size="small"
        :disabled="busy || r.finished"
        data-test="gauges-off"
        @click="say('gauges', { low: 'off', high: 'off' })"
        >{{ tr('Hoses off, caps on') }}</el-button
      >
    </div>
    <ul class="points">
      <li v-for="p in listed" :key="p.point" :data-test="`point-${p.point}`">
        <b :id="`p-${p.point}`">{{ p.label }}</b>
        <span v-if="p.takes === 'clamp' && !can(p)" class="how"
          ><select
            v-model="spot[p.point]"
            :aria-label="tr('Where to clamp the {what}', { what: p.label })"
            :data-test="`spot-${p.point}`"
          >
            <option :value="undefined" disabled>{{ tr('where on the pipe?') }}</option>
            <option v-for="[id, words] in SPOTS" :key="id" :value="id">{{ tr(words) }}</option></select
          ><el-button
            size="small"
            :disabled="busy || r.finished || !spot[p.point]"
            :data-test="`clamp-${p.point}`"
            @click="say('clamp', { pipe: p.point, spot: spot[p.point] })"
            >{{ tr('Clamp') }}</el-button
          ></span
        >
        <span v-else class="how"
          ><el-button
            size="small"
            :disabled="busy || r.finished || !can(p)"
            :aria-describedby="`p-${p.point}`"
            :data-test="`read-${p.point}`"
            @click="say('read', { point: p.point })"
            >{{ tr('Read') }}</el-button
          ><el-button
            v-if="p.takes === 'clamp'"
            size="small"
            link
            :disabled="busy || r.finished"
            @click="say('clamp', { pipe: p.point, spot: 'off' })"
            >{{ tr('off') }}</el-button
          ></span
        >
        <div v-if="shown[p.point]" class="face">
          <DialFace
            v-if="shown[p.point]!.reading!.side && drawing(shown[p.point]!)"
            :drawing="drawing(shown[p.point]!)!"
          />
          <output v-else class="digits num">{{ shown[p.point]!.reading!.text }}</output>
        </div>
        <label v-if="shown[p.point] || typed(p.point)" class="typed"
          ><span>{{ tr('You read') }}</span
          ><input
            :value="typed(p.point)"
            inputmode="decimal"
            maxlength="20"
            :disabled="done"
            :data-test="`typed-${p.point}`"
            @input="type(p.point, ($event.target as HTMLInputElement).value)"
        /></label>
      </li>
    </ul>
    <el-button v-if="!more && listed.length < r.points.length" link data-test="more-points" @click="more = true">{{
      tr('Everything that can be read here')
    }}</el-button>
  </section>
</template>

<style scoped>
.gauges {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
  margin-bottom: 8px;
}
.gauges label span {
  display: block;
  font-size: 13px;
}
.points {
  list-style: none;
  margin: 0;
  padding: 0;
}
.points li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 4px 10px;
  align-items: center;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.how {
  display: flex;
  gap: 6px;
  align-items: center;
}
.face {
  width: 190px;
}
.digits {
  font-size: 20px;
  background: var(--face-digital-ground);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 3px 8px;
}
.typed {
  display: flex;
  gap: 6px;
  align-items: center;
  justify-self: end;
}
.typed input {
  width: 84px;
  font: inherit;
  padding: 5px 8px;
}
@media (max-width: 700px) {
  select,
  .typed input {
    min-height: 44px;
  }
}
</style>
