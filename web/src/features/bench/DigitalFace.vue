<script setup lang="ts">
import { computed } from 'vue'

/** The digital choice: the pressure as a number, nothing converted, as the paper prints it. */
const props = defineProps<{ drawing: Record<string, unknown> }>()
const d = computed(() => props.drawing as unknown as { side: string; text: string; refrigerant: string })
</script>

<template>
  <div :class="['digital', d.side]" role="img" :aria-label="`${d.side} side gauge shows ${d.text}`">
    <span>{{ d.side.toUpperCase() }}</span><b class="num">{{ d.text }}</b
    ><small>{{ d.refrigerant }}</small>
  </div>
</template>

<style scoped>
.digital {
  border: 3px solid var(--side);
  border-radius: 8px;
  padding: 20px 10px 14px;
  text-align: center;
  background: #f2f5ee;
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
