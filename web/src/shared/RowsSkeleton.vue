<script setup lang="ts">
/** What stands where rows will be, while they are on their way. */
withDefaults(defineProps<{ cards?: number }>(), { cards: 1 })
</script>

<template>
  <div aria-busy="true" data-test="skeleton">
    <p class="off" role="status">Loading…</p>
    <div v-for="n in cards" :key="n" class="waiting" aria-hidden="true"><i /><i /><i /></div>
  </div>
</template>

<style scoped>
.waiting {
  margin-bottom: 14px;
  padding: 8px 0;
}
i {
  display: block;
  height: 14px;
  margin: 9px 0;
  border-radius: 3px;
  background: var(--line);
  animation: waiting 1.6s ease-in-out infinite;
}
i:nth-child(1) {
  width: 32%;
}
i:nth-child(2) {
  width: 78%;
}
i:nth-child(3) {
  width: 61%;
}
@keyframes waiting {
  50% {
    opacity: 0.4;
  }
}
@media (prefers-reduced-motion: reduce) {
  i {
    animation: none;
  }
}
@media print {
  .waiting {
    display: none;
  }
}
</style>
