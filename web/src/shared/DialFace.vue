<script setup lang="ts">
import type { Drawing } from './dial'

/** Drawn from the server's geometry: the same numbers the paper uses. */
defineProps<{ drawing: Drawing }>()
</script>

<template>
  <svg
    viewBox="0 0 200 200"
    role="img"
    :class="drawing.side"
    :aria-label="`${drawing.side} side gauge reads ${drawing.text}`"
  >
    <circle cx="100" cy="100" r="97" class="rim" />
    <path :d="drawing.minor_path" class="minor" />
    <path :d="drawing.major_path" class="major" />
    <text v-for="m in drawing.labels" :key="m.text" :x="m.x" :y="m.y + 2.6" class="mark">{{ m.text }}</text>
    <circle cx="100" cy="100" :r="drawing.ring_radius" class="ring" />
    <path :d="drawing.ring_path" class="ring" />
    <text v-for="m in drawing.ring_labels" :key="m.text" :x="m.x" :y="m.y + 2" class="ring-mark">{{ m.text }}</text>
    <text x="100" y="142" class="ring-name">{{ drawing.refrigerant }} {{ drawing.ring_unit }}</text>
    <text x="100" y="176" class="side">{{ drawing.side.toUpperCase() }}</text>
    <text x="100" y="186" class="unit">{{ drawing.unit }}</text>
    <g :style="{ transform: `rotate(${drawing.needle_deg}deg)` }" class="needle" :data-angle="drawing.needle_deg">
      <path d="M98.6 116L99.5 12L100.5 12L101.4 116Z" />
    </g>
    <circle cx="100" cy="100" r="5" class="hub" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  text-anchor: middle;
  font-family: var(--mono);
}
.low {
  --side: var(--low);
}
.high {
  --side: var(--high);
}
.rim {
  fill: var(--white);
  stroke: var(--side);
  stroke-width: 3;
}
.minor {
  stroke: var(--ink);
  stroke-width: 0.5;
}
.major {
  stroke: var(--ink);
  stroke-width: 1.4;
}
.mark {
  font-size: 8.4px;
  fill: var(--ink);
}
.ring {
  fill: none;
  stroke: var(--side);
  stroke-width: 0.7;
}
.ring-mark {
  font-size: 6.6px;
  fill: var(--side);
}
.ring-name {
  font-size: 7.6px;
  fill: var(--side);
}
.side {
  font-size: 10px;
  font-weight: 700;
  fill: var(--side);
}
.unit {
  font-size: 8px;
  fill: var(--ink);
}
.needle {
  transform-origin: 100px 100px;
  transition: transform 0.12s ease-out;
}
.needle path,
.hub {
  fill: var(--ink);
}
@media (prefers-reduced-motion: reduce) {
  .needle {
    transition: none;
  }
}
</style>
