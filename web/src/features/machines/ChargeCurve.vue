<script setup lang="ts">
/** Superheat and subcooling over the charge; with a receiver, its level and the glass. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

const props = defineProps<{ chart: Schemas['ChargeChartRow'] }>()
const [WIDE, HIGH, LEFT, RIGHT, TOP, BOTTOM] = [420, 190, 34, 10, 16, 30] as const
type Point = Schemas['ChargePointRow']
const receiver = computed(() => props.chart.points.some((p) => p.level !== null))
const highest = computed(() => {
  const top = Math.max(10, ...props.chart.points.map((p) => Math.max(p.superheat, p.subcooling)))
  const most = props.chart.unit === 'K' ? 40 : 70
  return Math.ceil(Math.min(top, most) / 10) * 10
})
const ends = computed(() => {
  const shares = props.chart.points.map((p) => p.percent)
  return [Math.min(...shares, 100), Math.max(...shares, 100)] as const
})
const x = (percent: number) =>
  LEFT + ((percent - ends.value[0]) / Math.max(ends.value[1] - ends.value[0], 1)) * (WIDE - LEFT - RIGHT)
const y = (value: number) =>
  HIGH - BOTTOM - (Math.min(Math.max(value, 0), highest.value) / highest.value) * (HIGH - TOP - BOTTOM)
const line = (of: (p: Point) => number) => props.chart.points.map((p) => `${x(p.percent)},${y(of(p))}`).join(' ')
/** The level is drawn on a scale of its own: full is the top. */
const level = computed(() =>
  props.chart.points.map((p) => `${x(p.percent)},${y(((p.level ?? 0) / 100) * highest.value)}`).join(' '),
)
const ticks = computed(() => props.chart.points.map((p) => p.percent).filter((p) => p % 10 === 0))
const rungs = computed(() => [0, 1, 2, 3, 4, 5].map((n) => (n * highest.value) / 5))
const right = computed(() => props.chart.points.find((p) => p.percent === 100))
const bubbling = computed(() => {
  const last = props.chart.points.filter((p) => p.bubbles > 0.1).pop()
  return receiver.value && last ? last.percent : null
})
const said = computed(() => {
  const some = props.chart.points.filter(
    (_, i, all) => i === 0 || i === all.length - 1 || i === Math.floor(all.length / 2),
  )
  return some
    .map(
      (p) =>
        `at ${p.percent} % superheat ${p.superheat}, ${p.level === null ? `subcooling ${p.subcooling}` : `receiver ${p.level} %`}`,
    )
    .join('; ')
})
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="`Figures over the charge: ${said}`">
      <rect
        v-if="bubbling !== null"
        :x="x(ends[0])"
        :y="TOP"
        :width="x(bubbling) - x(ends[0])"
        :height="HIGH - TOP - BOTTOM"
        class="bubbles"
      />
      <g v-for="r in rungs" :key="r">
        <path :d="`M${LEFT} ${y(r)}H${WIDE - RIGHT}`" class="grid" />
        <text :x="LEFT - 5" :y="y(r) + 3.5" text-anchor="end">{{ Math.round(r) }}</text>
      </g>
      <g v-for="t in ticks" :key="t">
        <path :d="`M${x(t)} ${TOP}V${HIGH - BOTTOM}`" :class="t === 100 ? 'full' : 'grid'" />
        <text :x="x(t)" :y="HIGH - BOTTOM + 12" text-anchor="middle">{{ t }}</text>
      </g>
      <polyline :points="line((p) => p.superheat)" class="low" />
      <polyline v-if="!receiver" :points="line((p) => p.subcooling)" class="high" />
      <polyline v-else :points="level" class="level" />
      <text :x="LEFT" :y="TOP - 5" class="low-word">superheat, {{ chart.unit }}</text>
      <text :x="WIDE - RIGHT" :y="TOP - 5" text-anchor="end" :class="receiver ? 'level-word' : 'high-word'">
        {{ receiver ? 'receiver level, top is full' : `subcooling, ${chart.unit}` }}
      </text>
      <text :x="(LEFT + WIDE - RIGHT) / 2" :y="HIGH - 4" text-anchor="middle">
        % of the right charge{{ right ? ` (100 % is ${right.charge} ${chart.mass_unit})` : ''
        }}{{ bubbling === null ? '' : '; shaded: bubbles in the glass' }}
      </text>
    </svg>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
svg {
  width: 100%;
  max-width: 520px;
  font-size: 10px;
}
text {
  fill: var(--ink);
}
.grid {
  stroke: var(--line);
  stroke-width: 0.8;
}
.full {
  stroke: var(--ink);
  stroke-width: 1.2;
  stroke-dasharray: 4 3;
}
polyline {
  fill: none;
  stroke-width: 2.2;
}
.low {
  stroke: var(--low);
}
.high {
  stroke: var(--high);
}
.level {
  stroke: var(--violet);
  stroke-dasharray: 6 3;
}
.low-word {
  fill: var(--low);
}
.high-word {
  fill: var(--high);
}
.level-word {
  fill: var(--violet);
}
.bubbles {
  fill: var(--amber-tint);
}
</style>
