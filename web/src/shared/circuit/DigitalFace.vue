<script setup lang="ts">
import type { Drawing } from '@/shared/dial'

/** The digital choice: the pressure as a number, nothing converted, as the paper prints it. */
defineProps<{ drawing: Drawing }>()
</script>

<template>
  <div :class="['digital', drawing.side]" role="img" :aria-label="`${drawing.side} side gauge shows ${drawing.text}`">
    <span>{{ drawing.side.toUpperCase() }}</span><b class="num">{{ drawing.text }}</b
    ><small>{{ drawing.refrigerant }}</small>
  </div>
</template>

<style scoped>
.digital {
  border: 3px solid var(--side);
  border-radius: 8px;
  padding: 20px 10px 14px;
  text-align: center;
  background: var(--face-digital-ground);
}
.low {
  --side: var(--low);
}
.high {
  --side: var(--high);
}
span {
  display: block;
  font-weight: 700;
  color: var(--side);
  letter-spacing: 0.08em;
}
b {
  font-size: 30px;
}
small {
  display: block;
  color: var(--ink-soft);
  font-size: 13px;
}
</style>
