<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import FaultEntry from './FaultEntry.vue'
import PtChart from './PtChart.vue'
import SuperheatChart from './SuperheatChart.vue'

const route = useRoute()
const part = computed(() => String(route.params.part || 'pt'))
const PARTS = [['pt', 'Pressure and temperature'], ['superheat', 'Target superheat'], ['faults', 'Faults']] as const
</script>

<template>
  <main class="page reference">
    <div class="page-head"><h1>Reference</h1><nav aria-label="Reference"><RouterLink v-for="[id, name] in PARTS" :key="id" :to="`/reference/${id}`" :class="{ on: part === id }">{{ name }}</RouterLink><RouterLink to="/practices">Schools of practice</RouterLink></nav></div>
    <SuperheatChart v-if="part === 'superheat'" />
    <FaultEntry v-else-if="part === 'faults'" />
    <PtChart v-else />
  </main>
</template>

<style scoped>
.reference { max-width: 1400px; padding-top: 14px; }
.page-head { margin-bottom: 10px; justify-content: flex-start; gap: 28px; }
nav { display: flex; gap: 4px; } nav a { padding: 6px 12px; text-decoration: none; color: var(--ink); border-bottom: 3px solid transparent; } nav a.on { font-weight: 700; color: var(--violet); border-bottom-color: var(--violet); }
</style>
