<script setup lang="ts">
/** What stands where a page will be, while what it is made of is on its way. */
defineProps<{ title?: string | undefined }>()
</script>

<template>
  <main class="page" aria-busy="true" data-test="skeleton">
    <h1>{{ title ?? '' }}</h1>
    <p class="off" role="status">On its way…</p>
    <div v-for="n in 3" :key="n" class="card" aria-hidden="true"><i /><i /><i /></div>
  </main>
</template>

<style scoped>
h1 {
  min-height: 1.3em;
}
.card {
  margin-bottom: 14px;
  padding: 18px;
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
    opacity: 0.45;
  }
}
@media (prefers-reduced-motion: reduce) {
  i {
    animation: none;
  }
}
</style>
