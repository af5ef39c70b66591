<script setup lang="ts">
import { computed, useId } from 'vue'
import { pointAlong, segments, serpentine, type Serpentine } from '@/shared/circuit/circuit'

/** One coil: how far it is filled now, inside how far it is filled with nothing wrong. Shares in the order of the flow. */
const props = defineProps<{
  shape: Serpentine
  now: [string, number][] | null
  faultFree: [string, number][] | null
  look: 'fins' | 'flat' | 'water'
  iced?: boolean
  blocked?: number
}>()
const mask = useId()
const path = computed(() => serpentine(...props.shape))
const parts = computed(() => (props.now ? segments(props.now) : []))
const ghosts = computed(() => (props.faultFree ? segments(props.faultFree) : []))
/** Where the last zone begins with nothing wrong: the mark to compare with. */
const mark = computed(() => {
  if (!props.faultFree) return null
  const before = props.faultFree.slice(0, -1).reduce((sum, [, share]) => sum + share, 0)
  return pointAlong(...props.shape, before)
})
const bubbly = computed(() => parts.value.filter((p) => p.kind === 'boil' || p.kind === 'mix'))
const fins = computed(() => {
  const [x, y, width, height] = props.shape
  return Array.from({ length: Math.floor(width / 7) }, (_, i) => `M${x + 4 + i * 7} ${y - 10}v${height + 20}`).join('')
})
const header = computed(() => {
  const [x, y, width, height] = props.shape
  return [x - 8, x + width - 2].map((at) => ({ x: at, y: y - 10, height: height + 20 }))
})
</script>

<template>
  <g :class="['coil', look]">
    <path v-if="look === 'fins'" :d="fins" class="fins" />
    <path v-if="look === 'water'" :d="path" class="jacket" />
    <path :d="path" class="tube" /><path v-if="!now" :d="path" class="empty" />
    <path
      v-for="part in ghosts"
      :key="`g${part.kind}`"
      :d="path"
      pathLength="100"
      :class="['ghost', part.kind]"
      :stroke-dasharray="part.dasharray"
      :stroke-dashoffset="part.dashoffset"
    />
    <path
      v-for="part in parts"
      :key="part.kind"
      :d="path"
      pathLength="100"
      :class="['fill', part.kind]"
      :stroke-dasharray="part.dasharray"
      :stroke-dashoffset="part.dashoffset"
      :data-fill="part.kind"
    />
    <template v-if="bubbly.length">
      <mask :id="mask" maskUnits="userSpaceOnUse" x="0" y="0" width="722" height="358"
        ><path
          v-for="part in bubbly"
          :key="part.kind"
          :d="path"
          pathLength="100"
          class="cut"
          :stroke-dasharray="part.dasharray"
          :stroke-dashoffset="part.dashoffset"
      /></mask>
      <path :d="path" class="bubbles" :mask="`url(#${mask})`" />
    </template>
    <path v-if="iced" :d="path" class="ice" />
    <g v-if="look === 'flat'"
      ><rect v-for="h in header" :key="h.x" :x="h.x" :y="h.y" width="10" :height="h.height" rx="5" class="header"
    /></g>
    <rect
      v-if="blocked"
      :x="shape[0] - 6"
      :y="shape[1] - 8"
      :width="shape[2] + 12"
      :height="(shape[3] + 16) * blocked"
      class="blocked"
    />
    <path v-if="mark" :d="`M${mark.x} ${mark.y - 9}l7 9l-7 9l-7 -9Z`" class="mark"
      ><title>the same boundary with nothing wrong</title></path
    >
  </g>
</template>

<style scoped>
.fins {
  stroke: var(--coil-fins-line);
  stroke-width: 1;
}
.tube {
  fill: none;
  stroke: var(--ink-faint);
  stroke-width: 17;
  stroke-linejoin: round;
  stroke-linecap: round;
}
.empty {
  fill: none;
  stroke: var(--coil-empty-line);
  stroke-width: 13;
  stroke-linejoin: round;
  stroke-linecap: round;
}
.flat .empty {
  stroke-width: 7;
}
.flat .tube {
  stroke-width: 10;
}
.jacket {
  fill: none;
  stroke: var(--coil-jacket-line);
  stroke-width: 24;
  stroke-linejoin: round;
  stroke-linecap: round;
}
.ghost,
.fill,
.cut,
.bubbles,
.ice {
  fill: none;
  stroke-linejoin: round;
}
.ghost {
  stroke-width: 15;
  opacity: 0.5;
}
.fill {
  stroke-width: 8.5;
  transition:
    stroke-dasharray 0.14s ease-out,
    stroke-dashoffset 0.14s ease-out;
}
.flat .ghost {
  stroke-width: 8.4;
}
.flat .fill {
  stroke-width: 4.6;
}
.fill.boil {
  stroke: var(--low-bright);
}
.fill.gas {
  stroke: var(--low-tint);
}
.fill.hot {
  stroke: var(--high-tint-strong);
}
.fill.mix {
  stroke: var(--high-line);
}
.fill.liquid {
  stroke: var(--high-dark);
}
.ghost.boil {
  stroke: var(--coil-ghost-boil-line);
}
.ghost.gas {
  stroke: var(--coil-ghost-gas-line);
}
.ghost.hot {
  stroke: var(--coil-ghost-hot-line);
}
.ghost.mix {
  stroke: var(--coil-ghost-mix-line);
}
.ghost.liquid {
  stroke: var(--coil-ghost-liquid-line);
}
.cut {
  stroke: var(--white);
  stroke-width: 9;
  transition:
    stroke-dasharray 0.14s ease-out,
    stroke-dashoffset 0.14s ease-out;
}
.bubbles {
  stroke: var(--white);
  stroke-width: 3.4;
  stroke-linecap: round;
  stroke-dasharray: 0.1 9;
  opacity: 0.85;
}
.flat .bubbles {
  stroke-width: 2.2;
}
.ice {
  stroke: var(--white);
  stroke-width: 19;
  stroke-dasharray: 2 5;
  opacity: 0.75;
}
.header {
  fill: var(--coil-header-fill);
  stroke: var(--ink-faint);
  stroke-width: 1.4;
}
.blocked {
  fill: var(--coil-blocked-fill);
  opacity: 0.28;
  transition: height 0.14s ease-out;
}
.mark {
  fill: var(--white);
  stroke: var(--violet);
  stroke-width: 2.4;
  stroke-linejoin: round;
}
</style>
