<script setup lang="ts">
/** The site, drawn, with what can be looked at. Everything in it is a button with a name; the drawing only says where. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { HOUSE } from './places'
import { tr } from '@/shared/language'

const props = defineProps<{
  looks: Schemas['ScreenThing'][]
  seen: Record<string, string>
  box: boolean
  busy: boolean
  gauges: boolean
  /** Only to be looked at: nothing in it is faint. */
  still?: boolean
}>()
defineEmits<{ look: [check: string] }>()
const placed = computed(() =>
  props.looks.map((l, n) => ({ ...l, place: HOUSE[l.id] ?? { x: 8 + 11 * n, y: 97, name: l.name } })),
)
</script>

<template>
  <div :class="['site', { still }]">
    <svg viewBox="0 0 600 380" aria-hidden="true" focusable="false">
      <rect x="0" y="300" width="600" height="80" class="ground" />
      <template v-if="!box">
        <path d="M20 130 L190 30 L360 130 Z" class="roof" />
        <rect x="36" y="130" width="308" height="170" class="wall" />
        <rect x="60" y="170" width="60" height="56" class="pane" />
        <path d="M90 170v56M60 198h60" class="bar" />
        <rect x="250" y="206" width="48" height="94" class="door" />
        <rect x="200" y="196" width="20" height="28" rx="3" class="stat" />
      </template>
      <template v-else>
        <rect x="30" y="110" width="320" height="190" class="cold" />
        <rect x="52" y="190" width="52" height="110" class="door" />
        <path d="M140 260h70v-30h60v30h60v40H140z" class="goods" />
      </template>
      <path d="M118 92H62V150" class="duct" />
      <rect x="118" y="52" width="214" height="82" class="unit" />
      <path d="M134 60v66M141 60v66" class="filter" />
      <circle cx="192" cy="93" r="24" class="wheel" />
      <path d="M178 79l28 28M206 79l-28 28" class="wheel" />
      <path d="M272 60l24 66M286 60l24 66M300 60l24 66" class="fins" />
      <path d="M332 84H392V300H462" class="suction" />
      <path d="M332 108H374V318H462" class="liquid" />
      <rect x="462" y="206" width="122" height="118" rx="4" class="outdoor" />
      <path d="M472 226h102M472 240h102M472 254h102M472 268h102M472 282h102" class="fins" />
      <ellipse cx="523" cy="206" rx="42" ry="9" class="wheel" />
      <g v-if="gauges">
        <circle cx="414" cy="346" r="13" class="low" />
        <circle cx="446" cy="346" r="13" class="high" />
        <path d="M414 333L440 300" class="hose-low" />
        <path d="M446 333L452 318" class="hose-high" />
      </g>
    </svg>
    <button
      v-for="l in placed"
      :key="l.id"
      type="button"
      :class="['spot', l.place.side ?? 'right', { seen: seen[l.id] }]"
      :style="{ left: `${l.place.x}%`, top: `${l.place.y}%` }"
      :disabled="busy"
      :title="seen[l.id] ? `${l.name}: ${seen[l.id]}` : `${l.name}, ${l.minutes} min`"
      :aria-label="
        seen[l.id]
          ? tr('{what}, looked at: {said}', { what: l.name, said: seen[l.id]! })
          : tr('Look at: {what}', { what: l.name })
      "
      :data-test="`look-${l.id}`"
      @click="$emit('look', l.id)"
    >
      <i aria-hidden="true">{{ seen[l.id] ? '✓' : '' }}</i><span aria-hidden="true">{{ tr(l.place.name) }}</span>
    </button>
  </div>
</template>

<style scoped>
.site {
  position: relative;
}
svg {
  display: block;
  width: 100%;
  height: auto;
}
.ground {
  fill: var(--line-soft);
}
.roof,
.wall,
.cold {
  fill: var(--circuit-case-inner-fill);
  stroke: var(--circuit-case-line);
  stroke-width: 2;
}
.cold {
  fill: var(--circuit-case-box-fill);
}
.pane {
  fill: var(--low-tint);
  stroke: var(--circuit-case-line);
}
.bar,
.door,
.stat,
.goods {
  fill: none;
  stroke: var(--circuit-case-line);
  stroke-width: 1.5;
}
.unit,
.outdoor {
  fill: var(--card);
  stroke: var(--ink-mid);
  stroke-width: 2;
}
.duct {
  fill: none;
  stroke: var(--edge-soft);
  stroke-width: 12;
  opacity: 0.45;
}
.fins,
.filter,
.wheel {
  fill: none;
  stroke: var(--edge-soft);
  stroke-width: 1.5;
}
.suction,
.hose-low {
  fill: none;
  stroke: var(--low);
  stroke-width: 5;
}
.liquid,
.hose-high {
  fill: none;
  stroke: var(--high);
  stroke-width: 3.5;
}
.low,
.high {
  fill: var(--white);
  stroke: var(--low);
  stroke-width: 3;
}
.high {
  stroke: var(--high);
}
.spot {
  position: absolute;
  display: flex;
  align-items: center;
  gap: 5px;
  min-height: 26px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 13px;
  cursor: pointer;
  transform: translate(-9px, -50%);
  white-space: nowrap;
}
.spot.left {
  flex-direction: row-reverse;
  transform: translate(calc(-100% + 9px), -50%);
}
.spot i {
  width: 18px;
  height: 18px;
  border-radius: 50%;
  border: 2px solid var(--violet);
  background: var(--white);
  font-style: normal;
  font-size: 12px;
  line-height: 14px;
  text-align: center;
}
.spot span {
  background: color-mix(in srgb, var(--card) 88%, transparent);
  padding: 0 4px;
  border-radius: 3px;
}
.spot.seen i {
  background: var(--violet);
  color: var(--white);
}
.spot:disabled {
  opacity: 0.6;
  cursor: default;
}
.still .spot:disabled {
  opacity: 1;
}
@media (max-width: 700px) {
  .site svg {
    opacity: 0.5;
  }
  .spot {
    position: static;
    transform: none;
    flex-direction: row !important;
    min-height: 44px;
    width: 100%;
    font-size: 16px;
    border-bottom: 1px solid var(--line);
  }
  .spot.left {
    transform: none;
  }
}
</style>
