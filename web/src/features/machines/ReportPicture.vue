<script setup lang="ts">
import type { Schemas } from '@/api/client'

defineProps<{ tuned: Schemas['TunedReply'] }>()
type Row = Schemas['TunedReply']['report'][number]
/** Distance from what was asked, in bands either way: the middle is met exactly, the shaded part is within. */
const at = (r: Row) => `${50 + Math.max(-48, Math.min(48, (r.difference / r.band) * 22))}%`
const num = (v: number) => v.toLocaleString('en', { maximumFractionDigits: 1 })
</script>

<template>
  <div data-test="report">
    <p :class="['verdict', { good: tuned.met }]" role="status">{{ tuned.verdict }}</p>
    <table class="list">
      <thead>
        <tr>
          <th>Figure</th>
          <th class="right">Asked</th>
          <th class="right">Met</th>
          <th class="bar-head">within ± band</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in tuned.report" :key="r.id" :class="{ taken: r.asked === null }">
          <td>{{ r.figure }}</td>
          <td class="right num">
            <template v-if="r.asked !== null">{{ num(r.asked) }} {{ r.unit }}</template
            ><span v-else class="soft">usual: {{ num(r.taken ?? 0) }}</span>
          </td>
          <td class="right num">{{ num(r.met) }} {{ r.unit }}</td>
          <td>
            <div class="bar"><i /><b :class="{ out: !r.within }" :style="{ left: at(r) }" /></div>
            <small>{{ r.within ? 'met' : r.asked === null ? 'not asked' : 'missed' }}, ± {{ num(r.band) }}</small>
          </td>
        </tr>
      </tbody>
    </table>
    <ul v-if="tuned.contradictions.length" class="contradictions" data-test="contradictions">
      <li v-for="c in tuned.contradictions" :key="c.text">{{ c.text }}</li>
    </ul>
    <p v-for="n in tuned.notes" :key="n" class="soft note">{{ n }}</p>
  </div>
</template>

<style scoped>
.verdict {
  font-weight: 600;
  margin: 0 0 8px;
  border-left: 5px solid var(--amber);
  padding-left: 10px;
}
.verdict.good {
  border-left-color: var(--good);
}
td {
  padding: 5px 10px;
}
.bar-head {
  width: 250px;
}
td {
  white-space: nowrap;
}
.bar {
  position: relative;
  height: 12px;
  border: 1px solid var(--edge);
  border-radius: 2px;
  display: inline-block;
  width: 110px;
  vertical-align: middle;
  margin-right: 8px;
  background: var(--card);
}
.bar i {
  position: absolute;
  left: 28%;
  right: 28%;
  top: 0;
  bottom: 0;
  background: var(--violet-soft);
}
.bar b {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 3px;
  margin-left: -1px;
  background: var(--violet);
}
.bar b.out {
  background: var(--amber);
}
small {
  color: var(--ink-soft);
}
.taken {
  color: var(--ink-soft);
}
.contradictions {
  border-left: 5px solid var(--amber);
  margin: 12px 0;
  padding: 4px 14px 4px 26px;
}
.note {
  margin: 4px 0;
  font-size: 13px;
}
</style>
