<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { segments, serpentine } from './circuit'

const props = defineProps<{ reply: Schemas['BenchReply']; metering: string }>()
const fill = computed(() => props.reply.fill)
const sound = computed(() => props.reply.sound_fill)
const text = (id: string) => props.reply.readings.find((r) => r.id === id)?.now.text ?? ''

const evaporatorPath = serpentine(96, 118, 112, 156, 9, true)
const condenserPath = serpentine(470, 104, 112, 182, 10, false)
const evaporator = computed(() => (fill.value ? segments([['boil', fill.value.evaporator_boiling], ['gas', 1]]) : []))
const condenser = computed(() =>
  fill.value ? segments([['hot', fill.value.condenser_gas], ['mix', fill.value.condenser_two_phase], ['liquid', 1]]) : [])
const boilGhost = computed(() => (sound.value ? -100 * Math.min(sound.value.evaporator_boiling, 0.99) : 0))
const liquidGhost = computed(() => (sound.value ? -100 * Math.min(1 - sound.value.condenser_liquid, 0.99) : 0))
const bubbles = computed(() => (fill.value && fill.value.flash > 0.001 ? Math.min(14, 3 + Math.round(fill.value.flash * 60)) : 0))
</script>

<template>
  <svg viewBox="0 0 680 400" role="img" aria-label="Circuit: how far the coils are filled, with readings where they are taken">
    <rect x="64" y="58" width="176" height="262" rx="6" class="case" />
    <text x="70" y="52" class="label">INDOOR</text>
    <rect x="420" y="58" width="216" height="290" rx="6" class="case" />
    <text x="426" y="52" class="label">OUTDOOR</text>

    <path d="M208 118H258V34H352V312H434" class="pipe low thick" />
    <path d="M470 286H446V374H300V372H66V274H96" class="pipe high" />
    <path d="M446 296V80H470V104" class="pipe high" />
    <circle cx="446" cy="312" r="20" class="machine" />
    <path d="M438 303L456 312L438 321Z" class="machine-mark" />
    <text x="472" y="330" class="small">compressor</text>

    <path :d="evaporatorPath" class="tube" />
    <path v-for="part in evaporator" :key="part.kind" :d="evaporatorPath" pathLength="100" :class="['fill', part.kind]" :stroke-dasharray="part.dasharray" :stroke-dashoffset="part.dashoffset" />
    <path v-if="sound" :d="evaporatorPath" pathLength="100" class="ghost" stroke-dasharray="1.1 200" :stroke-dashoffset="boilGhost" />
    <path :d="condenserPath" class="tube" />
    <path v-for="part in condenser" :key="part.kind" :d="condenserPath" pathLength="100" :class="['fill', part.kind]" :stroke-dasharray="part.dasharray" :stroke-dashoffset="part.dashoffset" />
    <path v-if="sound" :d="condenserPath" pathLength="100" class="ghost" stroke-dasharray="1.1 200" :stroke-dashoffset="liquidGhost" />

    <rect x="300" y="361" width="42" height="22" rx="9" class="drier" />
    <text x="321" y="356" class="small mid">drier</text>
    <g class="device">
      <template v-if="metering === 'txv'"><path d="M56 300L76 316H56L76 300Z" /><path d="M66 308V292M58 292H74" class="stem" /></template>
      <template v-else><path d="M58 296H74V302H69V314H74V320H58V314H63V302H58Z" /></template>
    </g>
    <text x="52" y="336" class="small end">{{ metering === 'txv' ? 'valve' : 'orifice' }}</text>
    <g v-if="bubbles" class="bubbles"><circle v-for="n in bubbles" :key="n" :cx="80 + n * 15" :cy="371 + (n % 3) - 1" :r="1.6 + (n % 2)" /></g>
    <g v-if="fill?.frosting" class="frost"><path v-for="n in 12" :key="n" :d="`M${90 + (n % 4) * 38} ${128 + Math.floor((n - 1) / 4) * 52}m-6 0h12m-6-6v12m-4-10l8 8m0-8l-8 8`" /></g>
    <g v-if="fill?.flood_back" class="drops"><circle v-for="n in 7" :key="n" cx="352" :cy="60 + n * 32" r="3.4" /></g>

    <g class="air"><path d="M14 150H54m-8-6l8 6l-8 6M14 190H54m-8-6l8 6l-8 6" /><path d="M676 150H644m8-6l-8 6l8 6M676 230H644m8-6l-8 6l8 6" /></g>

    <g class="tag"><text x="10" y="120">{{ text('return_db') }}</text><text x="10" y="134" class="small">return, {{ text('return_wb') }} wet</text></g>
    <g class="tag"><text x="76" y="78">{{ text('supply_db') }}</text><text x="76" y="92" class="small">supply</text></g>
    <g class="tag low"><circle cx="352" cy="150" r="5" /><text x="344" y="146" class="end">{{ text('suction_line') }}</text><text x="344" y="160" class="small end">suction line</text></g>
    <g class="tag high"><circle cx="446" cy="186" r="5" /><text x="412" y="182" class="end">{{ text('discharge_line') }}</text><text x="412" y="196" class="small end">discharge</text></g>
    <g class="tag high"><circle cx="400" cy="374" r="5" /><text x="400" y="358" class="mid">{{ text('liquid_line') }}</text><text x="400" y="394" class="small mid">liquid line</text></g>
    <g class="tag high"><circle cx="250" cy="372" r="5" /><text x="250" y="356" class="mid">{{ text('drier_out') }}</text><text x="250" y="394" class="small mid">after the drier</text></g>
    <g class="tag"><text x="600" y="120">{{ text('outdoor_db') }}</text><text x="600" y="134" class="small">outdoor</text></g>
    <text v-if="fill?.flood_back" x="262" y="26" class="warn">liquid comes back to the compressor</text>
  </svg>
  <ul class="legend" aria-label="Key to the picture">
    <li><i class="boil" />boiling</li><li><i class="gas" />cool gas</li><li><i class="hot" />hot gas</li><li><i class="mix" />condensing</li><li><i class="liquid" />liquid</li><li><i class="ghost" />the same when sound</li>
  </ul>
</template>

<style scoped>
svg { display: block; width: 100%; height: auto; max-height: 400px; }
.case { fill: #f3efe6; stroke: #a9a393; stroke-width: 1.5; }
.label { font: 700 12px Archivo; letter-spacing: 0.12em; fill: var(--ink-soft); }
.small { font: 400 12px Archivo; fill: var(--ink-soft); }
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
.ghost { fill: none; stroke: var(--violet); stroke-width: 24; }
.machine { fill: #fff; stroke: var(--ink); stroke-width: 2.5; }
.machine-mark { fill: var(--ink); }
.drier { fill: #fff; stroke: var(--ink); stroke-width: 2; }
.device path { fill: #fff; stroke: var(--ink); stroke-width: 2; stroke-linejoin: round; }
.bubbles circle { fill: #fff; }
.drops circle { fill: #fff; stroke: var(--low); }
.frost path { stroke: #fff; stroke-width: 2.4; fill: none; }
.air path { stroke: #8d889c; stroke-width: 2; fill: none; }
.tag text:not(.small) { font: 700 15px 'B612 Mono', monospace; letter-spacing: -0.04em; fill: var(--ink); }
.tag circle { fill: #fff; stroke-width: 3; }
.tag.low circle { stroke: var(--low); }
.tag.high circle { stroke: var(--high); }
.warn { font: 700 14px Archivo; fill: var(--amber); }
.legend { display: flex; flex-wrap: wrap; gap: 2px 14px; list-style: none; margin: 2px 0 0; padding: 0; font-size: 12.5px; color: var(--ink-soft); }
.legend i { display: inline-block; width: 18px; height: 9px; margin-right: 5px; border: 1px solid #6d6877; border-radius: 2px; }
.legend .boil { background: #3c82d6; } .legend .gas { background: #d5e6f8; } .legend .hot { background: #f6cfc6; }
.legend .mix { background: #e58a78; } .legend .liquid { background: #8e1710; } .legend .ghost { background: var(--violet); width: 5px; border-color: var(--violet); }
</style>
