<script setup lang="ts">
import type { Step } from './charts'

/** Where marks are lost, in the order of the work: the filled part is what was earned. */
defineProps<{ steps: Step[] }>()
const percent = (share: number | null) => (share === null ? 0 : Math.round(share * 100))
</script>

<template>
  <ol class="steps">
    <li v-for="s in steps" :key="s.step">
      <span class="name">{{ s.name }}</span><span
        class="bar"
        role="img"
        :aria-label="`${percent(s.share)} per cent earned`"
        ><i :style="{ width: `${percent(s.share)}%` }" /></span
      ><b class="num">{{ percent(s.share) }} %</b><small class="soft">{{ s.lost }} of {{ s.points }} lost</small>
    </li>
  </ol>
</template>

<style scoped>
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
}
.steps li {
  display: grid;
  grid-template-columns: 172px 1fr 52px;
  gap: 0 10px;
  align-items: center;
  padding: 4px 0;
  font-size: 14px;
}
.bar {
  height: 16px;
  background: repeating-linear-gradient(45deg, var(--step-bars-bar-ground) 0 4px, var(--high-tint) 4px 8px);
  border-radius: 2px;
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--violet);
}
.steps small {
  grid-column: 2 / -1;
  line-height: 1.1;
}
b {
  text-align: right;
}
</style>
