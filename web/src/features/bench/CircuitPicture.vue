<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { pointAlong, segments, serpentine } from './circuit'

const props = defineProps<{ reply: Schemas['BenchReply']; machine?: Schemas['MachineRow'] }>()
const fill = computed(() => props.reply.fill)
const sound = computed(() => props.reply.sound_fill)
const text = (id: string) => (props.reply.readings.find((r) => r.id === id)?.now.text ?? '').replace(' to ', '–')

const metering = computed(() => props.machine?.metering ?? 'txv')
const DEVICE: Record<string, string> = { txv: 'valve', eev: 'e-valve', fixed_orifice: 'orifice', capillary: 'capillary' }
const boxed = computed(() => props.machine?.weather.some((w) => w.field === 'box_f') ?? false)
const water = computed(() => props.machine?.condenser === 'water_cooled')
const level = computed(() => fill.value?.receiver ?? null)
const swings = (id: string) => ({ swings: text(id).includes('–') })

const EVAPORATOR = [104, 112, 112, 156, 9, true] as const
const CONDENSER = [552, 100, 104, 182, 10, false] as const
const evaporatorPath = serpentine(...EVAPORATOR)
const condenserPath = serpentine(...CONDENSER)
const evaporator = computed(() => (fill.value ? segments([['boil', fill.value.evaporator_boiling], ['gas', 1]]) : []))
const condenser = computed(() =>
  fill.value ? segments([['hot', fill.value.condenser_gas], ['mix', fill.value.condenser_two_phase], ['liquid', 1]]) : [])
const boilGhost = computed(() => pointAlong(...EVAPORATOR, sound.value?.evaporator_boiling ?? 0))
const liquidGhost = computed(() => pointAlong(...CONDENSER, 1 - (sound.value?.condenser_liquid ?? 0)))
const bubbles = computed(() => (fill.value && fill.value.flash > 0.001 ? Math.min(14, 3 + Math.round(fill.value.flash * 60)) : 0))
</script>

<template>
  <svg viewBox="-30 12 790 390" role="img" aria-label="Circuit: how far the coils are filled, with readings where they are taken">
    <rect x="72" y="52" width="176" height="262" rx="6" class="case" />
    <text x="78" y="46" class="label">{{ boxed ? 'BOX' : 'INDOOR' }}</text>
    <rect x="408" y="52" width="270" height="298" rx="6" class="case" />
    <text x="414" y="46" class="label">{{ boxed ? 'CONDENSING UNIT' : 'OUTDOOR' }}{{ machine?.condenser === 'microchannel' ? ', MICROCHANNEL' : '' }}</text>

    <path d="M216 112H276V30H360V312H430" class="pipe low thick" />
    <path d="M552 282H520V374H74V268H104" class="pipe high" />
    <path d="M450 292V74H552V100" class="pipe high" />
    <circle cx="450" cy="312" r="20" class="machine" />
    <path d="M442 303L460 312L442 321Z" class="machine-mark" />
    <text x="450" y="346" class="small mid">compressor</text>

    <path :d="evaporatorPath" class="tube" />
    <path v-for="part in evaporator" :key="part.kind" :d="evaporatorPath" pathLength="100" :class="['fill', part.kind]" :stroke-dasharray="part.dasharray" :stroke-dashoffset="part.dashoffset" />
    <path :d="condenserPath" class="tube" />
    <path v-for="part in condenser" :key="part.kind" :d="condenserPath" pathLength="100" :class="['fill', part.kind]" :stroke-dasharray="part.dasharray" :stroke-dashoffset="part.dashoffset" />
    <g v-if="sound">
      <path v-for="(p, n) in [boilGhost, liquidGhost]" :key="n" :d="`M${p.x} ${p.y - 11}l11 11l-11 11l-11 -11Z`" class="ghost" />
    </g>

    <rect x="330" y="361" width="46" height="26" rx="10" class="drier" />
    <text x="353" y="354" class="small mid">drier</text>
    <g class="device">
      <template v-if="metering === 'txv' || metering === 'eev'"><path d="M64 300L84 318H64L84 300Z" /><path d="M74 309V292M65 292H83" class="stem" /></template>
      <path v-else-if="metering === 'capillary'" d="M74 322c-12 -3 -12 -9 0 -9s12 -7 0 -8s-12 -8 0 -9" class="stem" />
      <path v-else d="M66 296H82V302H77V314H82V320H66V314H71V302H66Z" />
    </g>
    <text x="58" y="314" class="small end">{{ DEVICE[metering] }}</text>
    <g v-if="level !== null" class="receiver">
      <rect x="500" y="300" width="40" height="62" rx="14" />
      <clipPath id="receiver-shape"><rect x="501" y="301" width="38" height="60" rx="13" /></clipPath>
      <rect x="500" :y="362 - 62 * level" width="40" :height="62 * level" class="held" clip-path="url(#receiver-shape)" />
      <text x="546" y="338" class="small">{{ Math.round(level * 100) }} %</text>
      <circle cx="404" cy="374" r="10" :class="['glass', { clear: !bubbles }]" />
    </g>
    <g v-if="bubbles" class="bubbles"><circle v-for="n in bubbles" :key="n" :cx="80 + n * 17" :cy="373 + (n % 3) - 1" :r="1.6 + (n % 2)" /></g>
    <g v-if="fill?.frosting" class="frost"><path v-for="n in 12" :key="n" :d="`M${98 + ((n - 1) % 4) * 38} ${128 + Math.floor((n - 1) / 4) * 52}m-6 0h12m-6-6v12m-4-10l8 8m0-8l-8 8`" /></g>
    <g v-if="fill?.flood_back" class="drops"><circle v-for="n in 7" :key="n" cx="360" :cy="60 + n * 32" r="3.4" /></g>

    <g class="air"><path d="M-10 190H60m-9-7l9 7l-9 7M-10 220H60m-9-7l9 7l-9 7" /><path v-if="!water" d="M752 190H690m9-7l-9 7l9 7M752 220H690m9-7l-9 7l9 7" /><path v-else d="M752 270H690m9-7l-9 7l9 7M690 120H752m-9-7l9 7l-9 7" class="water" /></g>

    <g class="tag"><text x="-24" y="140">{{ text('return_db') }}</text><text x="-24" y="157" class="small">{{ boxed ? 'box air' : 'return air' }}</text><text v-if="text('return_wb')" x="-24" y="173" class="small">wet {{ text('return_wb') }}</text></g>
    <g class="tag"><text x="84" y="80" :class="swings('supply_db')">{{ text('supply_db') }}</text><text v-if="!swings('supply_db').swings" x="166" y="80" class="small">{{ boxed ? 'off the coil' : 'supply' }}</text></g>
    <g class="tag low"><circle cx="360" cy="170" r="6" /><text x="348" y="168" :class="['end', swings('suction_line')]">{{ text('suction_line') }}</text><text x="348" y="185" class="small end">suction line</text></g>
    <g class="tag high"><circle cx="450" cy="150" r="6" /><text x="461" y="148" :class="swings('discharge_line')">{{ text('discharge_line') }}</text><text x="461" y="165" class="small">discharge</text></g>
    <g class="tag high"><circle cx="440" cy="374" r="6" /><text x="440" y="398" :class="['mid', swings('liquid_line')]">{{ text('liquid_line') }}</text><text :x="swings('liquid_line').swings ? 496 : 486" y="398" class="small">liquid line</text></g>
    <g class="tag high"><circle cx="280" cy="374" r="6" /><text x="280" y="398" :class="['mid', swings('drier_out')]">{{ text('drier_out') }}</text><text :x="swings('drier_out').swings ? 226 : 232" y="398" class="small end">after the drier</text></g>
    <g v-if="water" class="tag"><text x="690" y="250">{{ text('water_in') }}</text><text x="690" y="292" class="small">water in</text><text x="690" y="100">{{ text('water_out') }}</text><text x="690" y="142" class="small">water out</text></g>
    <g v-else class="tag"><text x="690" y="140">{{ text('outdoor_db') }}</text><text x="690" y="157" class="small">{{ boxed ? 'at the unit' : 'outdoor air' }}</text></g>
    <text v-if="fill?.flood_back" x="376" y="32" class="warn">liquid comes back to the compressor</text>
  </svg>
  <ul class="legend" aria-label="Key to the picture">
    <li><i class="boil" />boiling</li><li><i class="gas" />cool gas</li><li><i class="hot" />hot gas</li><li><i class="mix" />condensing</li><li><i class="liquid" />liquid</li><li><i class="ghost" />the same when sound</li>
  </ul>
</template>

<style scoped>
svg { display: block; width: 100%; height: auto; max-height: 400px; }
.case { fill: #f3efe6; stroke: #a9a393; stroke-width: 1.5; }
.label { font: 700 13px Archivo; letter-spacing: 0.12em; fill: var(--ink-soft); }
.small { font: 400 14px Archivo; fill: var(--ink-soft); }
.end { text-anchor: end; }
.mid { text-anchor: middle; }
.pipe { fill: none; stroke-linejoin: round; stroke-width: 6; }
.pipe.low { stroke: var(--low); }
.pipe.high { stroke: var(--high); }
.pipe.thick { stroke-width: 10; }
.tube { fill: none; stroke: #6d6877; stroke-width: 14; stroke-linejoin: round; stroke-linecap: round; }
.fill { fill: none; stroke-width: 10; stroke-linejoin: round; }
.fill.boil { stroke: #3c82d6; }
.fill.gas { stroke: #d5e6f8; }
.fill.hot { stroke: #f6cfc6; }
.fill.mix { stroke: #e58a78; }
.fill.liquid { stroke: #8e1710; }
.ghost { fill: #fff; stroke: var(--violet); stroke-width: 3; }
.machine { fill: #fff; stroke: var(--ink); stroke-width: 2.5; }
.machine-mark { fill: var(--ink); }
.drier { fill: #fff; stroke: var(--ink); stroke-width: 2; }
.device path { fill: #fff; stroke: var(--ink); stroke-width: 2; stroke-linejoin: round; }
.bubbles circle { fill: #fff; }
.drops circle { fill: #fff; stroke: var(--low); }
.frost path { stroke: #fff; stroke-width: 2.4; fill: none; }
.air path { stroke: #8d889c; stroke-width: 2; fill: none; }
.tag text:not(.small) { font: 700 17px var(--mono); fill: var(--ink); }
.tag circle { fill: #fff; stroke-width: 3; }
.tag.low circle { stroke: var(--low); }
.tag.high circle { stroke: var(--high); }
.tag text.swings:not(.small) { font-size: 12px; }
.receiver rect { fill: #fff; stroke: var(--ink); stroke-width: 2; }
.receiver .held { fill: #8e1710; stroke: none; }
.receiver .glass { fill: #fff; stroke: var(--ink); stroke-width: 2; }
.receiver .glass.clear { fill: #8e1710; }
.air .water { stroke: #2b7a8c; stroke-width: 3; }
.device .stem { fill: none; }
.warn { font: 700 16px Archivo; fill: var(--amber); }
.legend { display: flex; flex-wrap: wrap; gap: 2px 14px; list-style: none; margin: 2px 0 0; padding: 0; font-size: 12.5px; color: var(--ink-soft); }
.legend i { display: inline-block; width: 18px; height: 9px; margin-right: 5px; border: 1px solid #6d6877; border-radius: 2px; }
.legend .boil { background: #3c82d6; } .legend .gas { background: #d5e6f8; } .legend .hot { background: #f6cfc6; }
.legend .mix { background: #e58a78; } .legend .liquid { background: #8e1710; } .legend .ghost { background: #fff; border: 2px solid var(--violet); width: 9px; transform: rotate(45deg); }
</style>
