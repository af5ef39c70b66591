<script setup lang="ts">
import { computed } from 'vue'
import { CHIP, type Spot } from '@/shared/circuit/circuit'

/** A reading where its probe sits; a switch that gives it to the apprentice or withholds it, unless `given` is null. */
const props = defineProps<{ id: string; spot: Spot; text: string; label: string; given: boolean | null }>()
const emit = defineEmits<{ toggle: [id: string] }>()
const value = computed(() => props.text.replace(' to ', '–'))
const leader = computed(() => {
  const { probe, chip } = props.spot
  if (!probe) return ''
  const x = Math.min(Math.max(probe.x, chip.x), chip.x + CHIP.width)
  const y = probe.y < chip.y ? chip.y : probe.y > chip.y + CHIP.height ? chip.y + CHIP.height : probe.y
  return `M${probe.x} ${probe.y}L${x} ${y}`
})
const said = computed(() =>
  props.given === null
    ? undefined
    : `${props.label} ${props.text}: ${props.given ? 'given to the apprentice' : 'withheld'}`,
)
</script>

<template>
  <g
    :class="['chip', spot.side, { withheld: given === false, live: given !== null }]"
    :role="given === null ? undefined : 'switch'"
    :aria-checked="given === null ? undefined : given"
    :aria-label="said"
    :tabindex="given === null ? undefined : 0"
    :data-reading="id"
    @click="given !== null && emit('toggle', id)"
    @keydown.enter.prevent="given !== null && emit('toggle', id)"
    @keydown.space.prevent="given !== null && emit('toggle', id)"
  >
    <path v-if="leader" :d="leader" class="leader" />
    <circle v-if="spot.probe" :cx="spot.probe.x" :cy="spot.probe.y" r="5" class="probe" />
    <rect :x="spot.chip.x" :y="spot.chip.y" :width="CHIP.width" :height="CHIP.height" rx="3" class="plate" />
    <rect :x="spot.chip.x" :y="spot.chip.y" width="4" :height="CHIP.height" rx="1.5" class="edge" />
    <text :x="spot.chip.x + 9" :y="spot.chip.y + 15" :class="['value', { long: value.length > 9 }]">{{ value }}</text>
    <text :x="spot.chip.x + 9" :y="spot.chip.y + 27" class="name">{{ given === false ? 'withheld' : label }}</text>
    <path
      v-if="given === false"
      :d="`M${spot.chip.x + 6} ${spot.chip.y + CHIP.height - 3}L${spot.chip.x + CHIP.width - 4} ${spot.chip.y + 4}`"
      class="strike"
    />
  </g>
</template>

<style scoped>
.low {
  --side: var(--low);
}
.high {
  --side: var(--high);
}
.air {
  --side: var(--ink-faint);
}
.leader {
  stroke: var(--side);
  stroke-width: 1.3;
  fill: none;
}
.probe {
  fill: var(--white);
  stroke: var(--side);
  stroke-width: 3;
}
.plate {
  fill: var(--card);
  stroke: var(--chip-plate-line);
  stroke-width: 1;
}
.edge {
  fill: var(--side);
}
.value {
  font: 700 13.5px var(--mono);
  fill: var(--ink);
}
.value.long {
  font-size: 9.5px;
}
.name {
  font: 400 11px Archivo;
  fill: var(--ink-soft);
}
.live {
  cursor: pointer;
  outline: none;
}
.live:hover .plate {
  fill: var(--violet-soft);
}
.live:focus-visible .plate {
  stroke: var(--violet);
  stroke-width: 3;
}
.withheld .plate {
  fill: var(--chip-withheld-plate-fill);
  stroke-dasharray: 4 3;
  stroke: var(--ink-faint);
}
.withheld .value {
  fill: var(--ink-gray);
}
.withheld .strike {
  stroke: var(--ink-gray);
  stroke-width: 1.2;
}
</style>
