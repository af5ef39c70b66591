<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { along } from './circuit'

const props = defineProps<{ figure: Schemas['Figure'] }>()
const at = (value: number) => along(value, props.figure.scale_low, props.figure.scale_high)
const band = computed(() => ({ left: `${at(props.figure.band_low)}%`, width: `${at(props.figure.band_high) - at(props.figure.band_low)}%` }))
const SIGN: Record<string, string> = { low: '▼ LOW', right: '● RIGHT', high: '▲ HIGH' }
</script>

<template>
  <div class="figure">
    <div class="row"><b>{{ figure.label }}</b><span class="num">{{ figure.now.text }}</span><span :class="['verdict', figure.verdict]">{{ SIGN[figure.verdict] }}</span></div>
    <div class="bar" role="img" :aria-label="`${figure.label} ${figure.now.text}, target ${figure.band_text}, sound ${figure.sound.text}`">
      <span class="band" :style="band" />
      <span class="sound" :style="{ left: `${at(figure.sound.value)}%` }" />
      <span class="now" :style="{ left: `${at(figure.now.value)}%` }" />
    </div>
    <div class="row foot"><span>target {{ figure.band_text }}</span><span>sound {{ figure.sound.text }}</span></div>
  </div>
</template>

<style scoped>
.row { display: flex; align-items: baseline; gap: 10px; }
.row b { flex: 1; font-weight: 600; }
.num { font-size: 17px; font-weight: 700; }
.verdict { width: 74px; font-size: 12.5px; font-weight: 700; text-align: right; }
.verdict.low { color: var(--low); } .verdict.high { color: var(--high); } .verdict.right { color: var(--good); }
.bar { position: relative; height: 14px; margin: 4px 0 2px; background: #ece7dc; border-radius: 2px; }
.band { position: absolute; top: 0; bottom: 0; background: #c3b8e6; }
.sound, .now { position: absolute; top: -3px; bottom: -3px; transform: translateX(-50%); }
.sound { width: 0; border-left: 2px dashed var(--violet); }
.now { width: 6px; background: var(--ink); border-radius: 2px; transition: left 0.12s ease-out; }
.foot { justify-content: space-between; font-size: 12px; color: var(--ink-soft); }
</style>
