<script setup lang="ts">
/** One look or test, and what it showed. */
import type { Schemas } from '@/api/client'

defineOptions({ inheritAttrs: false })
defineProps<{ check: Schemas['CheckRow'] }>()
const said = defineModel<string | undefined>()
</script>

<template>
  <label
    ><span>{{ check.name }}</span
    ><select v-bind="$attrs" v-model="said">
      <option :value="undefined">not yet</option>
      <option v-for="w in check.words" :key="w.id" :value="w.id">{{ w.text }}</option>
    </select></label
  >
</template>

<style scoped>
label {
  display: block;
  font-size: 12px;
}
span {
  display: block;
  color: var(--ink-mid);
}
select {
  width: 100%;
}
</style>
