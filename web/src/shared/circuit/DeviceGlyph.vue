<script setup lang="ts">
/** The metering device, drawn by its kind at (104, 284) of the circuit picture. */
defineProps<{ metering: string; opening: number | null; swings: boolean }>()
const NAMES: Record<string, string> = {
  txv: 'valve',
  eev: 'electronic valve',
  fixed_orifice: 'fixed orifice',
  capillary: 'capillary tube',
}
</script>

<template>
  <g class="device">
    <template v-if="metering === 'txv' || metering === 'eev'">
      <path d="M94 275L114 293H94L114 275Z" />
      <g v-if="metering === 'txv'"
        ><path d="M114 284H122M122 276Q130 276 130 284Q130 292 122 292Z" /><path
          d="M130 284C142 284 142 300 160 300S246 296 246 250V100"
          class="thin" /><rect x="237" y="78" width="19" height="9" rx="4.5" class="bulb"
      /></g>
      <g v-else
        ><path d="M114 284H122" /><rect x="122" y="275" width="17" height="18" rx="2" /><path
          d="M126 289V279L130.500 285L135 279V289"
          class="thin"
      /></g>
    </template>
    <path
      v-else-if="metering === 'capillary'"
      d="M104 300c-15 -3 -15 -8 0 -8s15 -6 0 -8s-15 -6 0 -8s15 -6 0 -8"
      class="thin"
    />
    <path v-else d="M94 270H114V277H108V291H114V298H94V291H100V277H94Z" />
    <text v-if="opening !== null && (metering === 'txv' || metering === 'eev')" x="88" y="282" class="open"
      >{{ Math.round(opening * 100) }} %</text
    >
    <text v-if="opening !== null && (metering === 'txv' || metering === 'eev')" x="88" y="294" class="open small">{{
      swings ? 'swings' : 'open'
    }}</text>
    <title>{{ NAMES[metering] ?? metering }}</title>
  </g>
</template>

<style scoped>
.device path,
.device rect {
  fill: var(--white);
  stroke: var(--ink);
  stroke-width: 1.8;
  stroke-linejoin: round;
}
.device .thin {
  fill: none;
  stroke-width: 1.4;
}
.device .bulb {
  fill: var(--amber-line);
}
.open {
  font: 700 12px var(--mono);
  text-anchor: end;
  fill: var(--ink);
}
.open.small {
  font: 400 11px Archivo;
  fill: var(--ink-soft);
}
</style>
