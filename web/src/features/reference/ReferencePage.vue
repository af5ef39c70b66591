<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { user } from '@/shared/session'
import FaultEntry from './FaultEntry.vue'
import PtChart from './PtChart.vue'
import SuperheatChart from './SuperheatChart.vue'

const route = useRoute()
const PARTS = [
  ['pt', 'Pressure and temperature'],
  ['superheat', 'Target superheat'],
  ['faults', 'Faults'],
] as const
const teaches = computed(() => user.value?.role === 'instructor')
/** The fault pages hold answers: they are for instructors. */
const parts = computed(() => PARTS.filter(([id]) => id !== 'faults' || teaches.value))
const part = computed(() => (parts.value.some(([id]) => id === route.params.part) ? String(route.params.part) : 'pt'))
</script>

<template>
  <main class="page reference">
    <div class="page-head">
      <h1>Reference</h1>
      <nav aria-label="Reference">
        <RouterLink v-for="[id, name] in parts" :key="id" :to="`/reference/${id}`" :class="{ on: part === id }">{{
          name
        }}</RouterLink><RouterLink v-if="teaches" to="/practices">Practices</RouterLink>
      </nav>
    </div>
    <SuperheatChart v-if="part === 'superheat'" />
    <FaultEntry v-else-if="part === 'faults'" />
    <PtChart v-else />
  </main>
</template>

<style scoped>
.reference {
  max-width: 1400px;
  padding-top: 14px;
}
.page-head {
  margin-bottom: 10px;
  justify-content: flex-start;
  gap: 28px;
}
nav {
  display: flex;
  gap: 4px;
}
nav a {
  padding: 6px 12px;
  text-decoration: none;
  color: var(--ink);
  border-bottom: 3px solid transparent;
}
nav a.on {
  font-weight: 700;
  color: var(--violet);
  border-bottom-color: var(--violet);
}
</style>
