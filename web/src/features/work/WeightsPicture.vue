<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

const props = defineProps<{ weights: Schemas['Weights'] }>()
const NAMES: Record<string, string> = { new: 'Cylinder, new', recovery: 'Cylinder, recovery' }
/** Vessels with what is in them, and a mark: the right charge, or 80 % full. */
const vessels = computed(() => {
  const { circuit, right_charge, cylinders } = props.weights
  const machine = {
    name: 'Machine',
    amount: circuit,
    mark: right_charge,
    most: Math.max(circuit, right_charge) * 1.25,
    what: 'right charge',
  }
  return [
    machine,
    ...cylinders.map((c) => ({
      name: NAMES[c.id] ?? c.id,
      amount: c.net,
      mark: c.net + c.room,
      most: (c.net + c.room) / 0.8,
      what: '80 % full',
    })),
  ]
})
const shown = (v: number) => v.toFixed(props.weights.unit === 'oz' ? 1 : 0)
const pct = (v: number, most: number) => `${Math.min(100, (100 * v) / most)}%`
</script>

<template>
  <div class="card weights" data-test="weights">
    <h2>Where every {{ weights.unit === 'oz' ? 'ounce' : 'gram' }} is</h2>
    <div class="vessels">
      <div v-for="v in vessels" :key="v.name" class="vessel">
        <span>{{ v.name }}</span>
        <div class="bar">
          <i :style="{ width: pct(v.amount, v.most) }" /><b :style="{ left: pct(v.mark, v.most) }" />
        </div>
        <span class="num"
          >{{ shown(v.amount) }} {{ weights.unit }} <small>{{ v.what }} {{ shown(v.mark) }}</small></span
        >
      </div>
    </div>
    <p class="soft">
      In the hoses {{ shown(weights.hoses) }} {{ weights.unit }}, lost {{ shown(weights.lost) }} {{ weights.unit }}.
    </p>
  </div>
</template>

<style scoped>
.weights {
  padding: 10px 14px;
}
.vessels {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px 18px;
  font-size: 13.5px;
}
.bar {
  position: relative;
  height: 14px;
  border: 1px solid var(--edge);
  border-radius: 2px;
  margin: 2px 0;
  background: var(--card);
}
.bar i {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--el-color-primary-light-5);
}
.bar b {
  position: absolute;
  top: -4px;
  bottom: -4px;
  width: 2px;
  background: var(--ink);
}
small {
  color: var(--ink-soft);
  font-size: 12px;
}
p {
  margin: 4px 0 0;
  font-size: 12.5px;
}
@media (max-width: 900px) {
  .vessels {
    grid-template-columns: 1fr;
  }
}
</style>
