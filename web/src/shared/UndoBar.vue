<script setup lang="ts">
/** What was just done, and a way back. */
import { sentence } from '@/api/client'
import { ref, watch } from 'vue'
import { dropUndo, undoable } from './asking'

const failure = ref('')
watch(undoable, () => (failure.value = ''))
async function back(): Promise<void> {
  const now = undoable.value
  if (!now) return
  try {
    await now.undo()
    if (undoable.value === now) dropUndo()
  } catch (error) {
    failure.value = sentence(error)
  }
}
</script>

<template>
  <div v-if="undoable" class="undo" role="status" data-test="undo-bar">
    <span>{{ failure || undoable.text }}</span><button type="button" data-test="undo" @click="back">Undo</button
    ><button type="button" aria-label="Close" @click="dropUndo()">✕</button>
  </div>
</template>

<style scoped>
.undo {
  position: fixed;
  left: 50%;
  bottom: 18px;
  transform: translateX(-50%);
  z-index: 40;
  display: flex;
  gap: 14px;
  align-items: center;
  max-width: 94vw;
  padding: 9px 16px;
  border-radius: 4px;
  background: var(--ink);
  color: var(--white);
}
button {
  min-width: 24px;
  min-height: 28px;
  border: 0;
  background: none;
  color: var(--white);
  font-weight: 700;
  text-decoration: underline;
  cursor: pointer;
}
@media print {
  .undo {
    display: none;
  }
}
</style>
