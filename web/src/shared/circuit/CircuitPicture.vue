<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import CoilPicture from '@/shared/circuit/CoilPicture.vue'
import DeviceGlyph from '@/shared/circuit/DeviceGlyph.vue'
import ReadingChip from './ReadingChip.vue'
import { planOf, VIEW, type Shape } from '@/shared/circuit/circuit'

type Fill = Schemas['Fill']
/** `fill` and `faultFree` are the answer: a class gets neither. `readings` are texts by id; `given` null means no switches. */
const props = defineProps<{
  shape: Shape
  fill: Fill | null
  faultFree: Fill | null
  readings: Record<string, string>
  names: Record<string, string>
  given: string[] | null
  marks?: { place: string; text: string; name: string }[]
  lively?: boolean
}>()
const emit = defineEmits<{ toggle: [id: string] }>()

const plan = computed(() => planOf(props.shape))
const water = computed(() => props.shape.condenser === 'water_cooled')
const pump = computed(() => props.shape.application.startsWith('heat_pump'))
/** In heating the evaporator and the compressor stand outdoors, and the condenser heats the house. */
const heating = computed(() => props.shape.application === 'heat_pump_heating')
const packaged = computed(() => props.shape.application === 'package_unit')
const reachIn = computed(() => props.shape.application === 'reach_in')
const evaporator = (fill: Fill): [string, number][] => [
  ['boil', fill.evaporator_boiling],
  ['gas', 1],
]
const condenser = (fill: Fill): [string, number][] => [
  ['hot', fill.condenser_gas],
  ['mix', fill.condenser_two_phase],
  ['liquid', 1],
]
const level = computed(() => props.fill?.receiver ?? null)
const flash = computed(() =>
  props.fill && props.fill.flash > 0.001 && !props.fill.stands
    ? Math.min(16, 4 + Math.round(props.fill.flash * 60))
    : 0,
)
/** On a class's screen a look through the sight glass is a reading, not a giveaway: it stays empty there. */
const chips = computed(() => Object.entries(plan.value.spots).filter(([id]) => props.readings[id] !== undefined))
const air = (share: number | undefined) => 1.4 + 2.6 * Math.min(Math.max(share ?? 1, 0), 1.2)
const percent = (share: number | undefined) =>
  share !== undefined && Math.abs(share - 1) > 0.04 ? `${Math.round(100 * share)} % of it` : ''
const CAPTION: Record<string, [string, string]> = {
  refrigeration: ['BOX', 'CONDENSING UNIT'],
  heating: ['OUTDOOR UNIT', 'INDOORS'],
  water: ['INDOOR', 'WATER-COOLED UNIT'],
  room: ['INDOOR', 'OUTDOOR'],
}
const caption = computed(
  () =>
    CAPTION[
      heating.value ? 'heating' : props.shape.refrigeration ? 'refrigeration' : water.value ? 'water' : 'room'
    ] as [string, string],
)
const short = (id: string) => SHORT[id] ?? props.names[id] ?? id
const SHORT: Record<string, string> = {
  return_db: 'return air',
  return_wb: 'wet bulb',
  supply_db: 'supply air',
  suction_line: 'suction line',
  discharge_line: 'discharge',
  liquid_line: 'liquid line',
  drier_out: 'after drier',
  outdoor_db: 'outdoor air',
  evaporator_inlet: 'coil inlet',
  evaporator_outlet: 'coil outlet',
  condenser_inlet: 'cond. inlet',
  condenser_bend: 'cond. bend',
  condenser_outlet: 'cond. outlet',
  suction_before_valve: 'before valve',
  mixed_air: 'mixed air',
  supply_high: 'duct top',
  supply_low: 'duct bottom',
  condenser_entering_air: 'air entering',
  condenser_leaving_air: 'air leaving',
  water_in: 'water in',
  water_out: 'water out',
  compressor_amps: 'amps',
  airflow: 'airflow',
  static: 'static',
}
const IN_A_BOX: Record<string, string> = { return_db: 'box air', supply_db: 'off the coil', outdoor_db: 'at the unit' }
const IN_HEATING: Record<string, string> = {
  return_db: 'outdoor air',
  supply_db: 'off the coil',
  outdoor_db: 'return air',
  condenser_leaving_air: 'supply air',
  condenser_inlet: 'vapor line',
  condenser_bend: 'coil bend',
  condenser_outlet: 'coil outlet',
}
const label = (id: string) => (heating.value ? IN_HEATING : props.shape.refrigeration ? IN_A_BOX : {})[id] ?? short(id)
/** A fault stays on the coil it is about when the refrigerant turns around. */
const EXCHANGED: Record<string, string> = {
  evaporator: 'condenser',
  evaporator_air: 'condenser_air',
  condenser: 'evaporator',
  condenser_air: 'evaporator_air',
}
const placed = computed(() =>
  (props.marks ?? []).map((m, i) => ({
    ...m,
    i,
    at: plan.value.marks[heating.value ? (EXCHANGED[m.place] ?? m.place) : m.place] ?? { x: 20, y: 20 },
    shift: (props.marks ?? []).slice(0, i).filter((o) => o.place === m.place).length * 20,
  })),
)
</script>

<template>
  <svg
    :viewBox="`0 0 ${VIEW.width} ${VIEW.height}`"
    role="group"
    aria-label="The circuit, with readings where they are taken"
    :class="['circuit', { lively }]"
  >
    <rect v-if="packaged || reachIn" x="78" y="26" width="564" height="280" rx="8" class="case" />
    <rect
      x="84"
      y="34"
      :width="heating ? 456 : 162"
      height="268"
      :rx="shape.refrigeration ? 2 : 7"
      :class="['case', { box: shape.refrigeration, inner: packaged || reachIn }]"
    />
    <rect
      :x="heating ? 544 : 470"
      y="34"
      :width="heating ? 94 : 168"
      height="268"
      rx="7"
      :class="['case', { inner: packaged || reachIn }]"
    />
    <text x="84" y="24" class="caption">{{ packaged ? 'ROOFTOP UNIT' : caption[0] }}</text>
    <text v-if="!packaged" :x="heating ? 544 : 470" y="24" class="caption">{{ caption[1] }}</text>
    <path
      v-if="!shape.refrigeration && !heating"
      d="M90 62V262M96 62V262M90 70l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8l6 8l-6 8"
      class="filter"
    />

    <path :d="plan.suction" class="pipe low jacket" />
    <path :d="plan.suction" :class="['pipe', 'low', 'wide']" />
    <path v-if="fill?.frosting" d="M218 92H330V262" class="pipe rime" />
    <path :d="plan.discharge" class="pipe high jacket thin" />
    <path :d="plan.discharge" class="pipe high pale" />
    <path :d="plan.liquid" class="pipe high jacket thin" />
    <path :d="plan.liquid" class="pipe high" />
    <g v-if="fill?.flood_back" class="drops">
      <circle v-for="n in 9" :key="n" :cx="n < 6 ? 330 : 330 + (n - 5) * 30" :cy="n < 6 ? 96 + n * 28 : 262" r="3.2" />
    </g>
    <g v-if="flash" class="flash">
      <circle
        v-for="n in flash"
        :key="n"
        :cx="316 - n * 13"
        :cy="311 + (n % 3)"
        :r="1.4 + (n % 3) * 0.5"
        :style="{ animationDelay: `${(n * 137) % 900}ms` }"
      />
    </g>

    <CoilPicture
      :shape="plan.evaporator"
      :now="fill && !fill.stands ? evaporator(fill) : null"
      :fault-free="faultFree ? evaporator(faultFree) : null"
      look="fins"
      :iced="fill?.frosting"
      :blocked="fill?.blocked"
    />
    <CoilPicture
      :shape="plan.condenser"
      :now="fill && !fill.stands ? condenser(fill) : null"
      :fault-free="faultFree ? condenser(faultFree) : null"
      :look="water ? 'water' : shape.condenser === 'microchannel' ? 'flat' : 'fins'"
    />

    <g class="blower">
      <circle cx="228" cy="66" r="12" />
      <path d="M228 66q-8 -4 -6 -9M228 66q8 4 6 9M228 66q4 -8 9 -6M228 66q-4 8 -9 6" />
    </g>
    <path
      v-if="!shape.refrigeration"
      d="M228 48V8m-7 9l7 -9l7 9"
      class="wind"
      :style="{ strokeWidth: `${air(fill?.evaporator_air)}px` }"
    />
    <g v-if="!water" class="blower">
      <ellipse cx="588" cy="46" rx="30" ry="6" />
      <path d="M560 46H616" />
    </g>
    <path
      v-if="!water"
      d="M608 34V8m-6 8l6 -8l6 8M630 34V8m-6 8l6 -8l6 8"
      class="wind"
      :style="{ strokeWidth: `${air(fill?.condenser_air)}px` }"
    />
    <path
      d="M6 186H76m-9 -6l9 6l-9 6M6 206H76m-9 -6l9 6l-9 6"
      class="wind"
      :style="{ strokeWidth: `${air(fill?.evaporator_air)}px` }"
    />
    <text v-if="percent(fill?.evaporator_air)" x="4" y="176" class="share">{{ percent(fill?.evaporator_air) }}</text>
    <template v-if="!water">
      <path
        d="M716 162H648m9 -6l-9 6l9 6M716 180H648m9 -6l-9 6l9 6"
        class="wind"
        :style="{ strokeWidth: `${air(fill?.condenser_air)}px` }"
      />
      <text v-if="percent(fill?.condenser_air)" x="650" y="198" class="share">{{ percent(fill?.condenser_air) }}</text>
    </template>
    <template v-else>
      <path
        d="M716 232H636m9 -6l-9 6l9 6M636 92H716m-9 -6l9 6l-9 6"
        class="wind water"
        :style="{ strokeWidth: `${air(fill?.condenser_air)}px` }"
      />
    </template>

    <g class="compressor">
      <path d="M488 240q0 -14 20 -14t20 14V278q0 12 -20 12t-20 -12Z" />
      <path v-if="fill?.flood_back" d="M490 272H526V278q0 11 -18 11t-18 -11Z" class="sump" />
      <path d="M502 250L516 258L502 266Z" class="mark" />
    </g>
    <g v-if="pump" class="reversing">
      <rect x="478" y="166" width="60" height="22" rx="9" />
      <path d="M484 182Q508 166 532 182" />
    </g>
    <g v-if="shape.receiver" class="receiver">
      <rect x="562" y="250" width="44" height="46" rx="12" />
      <clipPath id="tank"><rect x="563" y="251" width="42" height="44" rx="11" /></clipPath>
      <rect
        v-if="level !== null"
        x="562"
        :y="296 - 46 * level"
        width="44"
        :height="46 * level"
        class="held"
        clip-path="url(#tank)"
      />
      <text v-if="level !== null" x="584" y="277" :class="['tiny', 'bold', 'mid', { over: level > 0.5 }]">
        {{ Math.round(level * 100) }} %
      </text>
      <title>receiver</title>
    </g>
    <g v-if="shape.receiver" class="glass">
      <circle cx="300" cy="312" r="10" />
      <circle v-if="fill && !fill.glass" cx="300" cy="312" r="7" class="full" />
      <g v-if="fill?.glass">
        <circle v-for="n in 5" :key="n" :cx="295 + (n % 3) * 5" :cy="307 + n * 2" r="1.8" class="bubble" />
      </g>
    </g>
    <g class="drier">
      <rect x="330" y="301" width="44" height="22" rx="8" />
      <path d="M338 301V323M366 301V323" />
      <text x="352" y="341" class="tiny mid">drier</text>
    </g>
    <DeviceGlyph :metering="shape.metering" :opening="fill ? fill.opening : null" :swings="fill?.swings ?? false" />
    <text v-if="fill?.second" x="556" y="297" class="tiny" :class="{ warn: fill.second === 'stands' }">
      circuit 2 {{ fill.second }}
    </text>
    <text v-else-if="shape.circuits === 2" x="556" y="297" class="tiny">one of two circuits</text>
    <text v-if="fill?.stands" x="360" y="150" class="say">compressor not pumping</text>
    <text v-else-if="fill?.slugging" x="346" y="60" class="say">slugging</text>
    <text v-else-if="fill?.flood_back" x="346" y="60" class="say">floodback</text>

    <ReadingChip
      v-for="[id, spot] in chips"
      :id="id"
      :key="id"
      :spot="spot"
      :text="readings[id] ?? ''"
      :label="label(id)"
      :given="given === null ? null : given.includes(id)"
      @toggle="emit('toggle', $event)"
    />
    <g v-for="m in placed" :key="m.i" class="planted">
      <circle :cx="m.at.x + m.shift" :cy="m.at.y" r="9" />
      <text :x="m.at.x + m.shift" :y="m.at.y + 4.4">{{ m.text }}</text>
      <title>{{ m.name }}</title>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 100%;
}
.case {
  fill: var(--circuit-case-fill);
  stroke: var(--circuit-case-line);
  stroke-width: 1.4;
}
.case.inner {
  fill: var(--circuit-case-inner-fill);
  stroke-dasharray: 5 4;
}
.case.box {
  fill: var(--circuit-case-box-fill);
  stroke: var(--circuit-case-box-line);
  stroke-width: 6;
  stroke-dasharray: none;
}
.caption {
  font: 700 11.5px Archivo;
  letter-spacing: 0.08em;
  fill: var(--ink-soft);
}
.filter {
  fill: none;
  stroke: var(--circuit-filter-line);
  stroke-width: 1;
}
.pipe {
  fill: none;
  stroke-linejoin: round;
  stroke-width: 4.5;
}
.pipe.jacket {
  stroke-width: 12;
  stroke: var(--circuit-pipe-jacket-line);
}
.pipe.jacket.thin {
  stroke-width: 7.5;
  stroke: var(--circuit-pipe-jacket-thin-line);
}
.pipe.low.wide {
  stroke: var(--low);
  stroke-width: 9;
}
.pipe.high {
  stroke: var(--high);
}
.pipe.high.jacket {
  stroke: var(--circuit-pipe-high-jacket-line);
}
.pipe.low.jacket {
  stroke: var(--circuit-pipe-low-jacket-line);
}
.pipe.pale {
  stroke: var(--circuit-pipe-pale-line);
}
.pipe.rime {
  stroke: var(--white);
  stroke-width: 11;
  stroke-dasharray: 2 5;
  opacity: 0.85;
}
.drops circle {
  fill: var(--white);
  stroke: var(--low);
  stroke-width: 1.4;
}
.flash circle {
  fill: var(--white);
}
.circuit:not(.lively),
.circuit:not(.lively) :deep(*) {
  transition: none;
}
.lively .flash circle {
  animation: drift 0.9s linear infinite;
}
@keyframes drift {
  from {
    transform: translateX(6px);
  }
  to {
    transform: translateX(-7px);
  }
}
.blower circle,
.blower ellipse {
  fill: var(--card);
  stroke: var(--ink-faint);
  stroke-width: 1.5;
}
.blower path {
  fill: none;
  stroke: var(--ink-faint);
  stroke-width: 2.2;
}
.wind {
  stroke: var(--circuit-wind-line);
  fill: none;
  transition: stroke-width 0.14s ease-out;
}
.wind.water {
  stroke: var(--circuit-wind-water-line);
}
.share {
  font: 600 11.5px Archivo;
  fill: var(--amber);
}
.compressor path {
  fill: var(--circuit-compressor-path-fill);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.compressor .mark {
  fill: var(--white);
  stroke: none;
}
.compressor .sump {
  fill: var(--circuit-compressor-sump-fill);
  stroke: none;
}
.reversing rect {
  fill: var(--amber-line);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.reversing path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
}
.receiver rect {
  fill: var(--card);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.receiver .held {
  fill: var(--high-dark);
  stroke: none;
  transition:
    y 0.14s,
    height 0.14s;
}
.glass circle {
  fill: var(--card);
  stroke: var(--ink);
  stroke-width: 1.8;
}
.glass .full {
  fill: var(--high-dark);
  stroke: none;
}
.glass .bubble {
  fill: var(--white);
  stroke: var(--high);
  stroke-width: 1;
}
.drier rect {
  fill: var(--circuit-drier-rect-fill);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.drier path {
  stroke: var(--ink);
  stroke-width: 1;
}
.tiny {
  font: 400 11.5px Archivo;
  fill: var(--ink-soft);
}
.mid {
  text-anchor: middle;
}
.bold {
  font-weight: 700;
  fill: var(--ink);
}
.warn {
  fill: var(--amber);
  font-weight: 700;
}
.over {
  fill: var(--white);
}
.say {
  font: 700 13px Archivo;
  fill: var(--amber);
}
.planted circle {
  fill: var(--violet);
  stroke: var(--white);
  stroke-width: 1.6;
}
.planted text {
  font: 700 12px Archivo;
  fill: var(--white);
  text-anchor: middle;
}
</style>
