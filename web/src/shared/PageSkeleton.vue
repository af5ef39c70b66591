<script setup lang="ts">
import RowsSkeleton from './RowsSkeleton.vue'

/** What stands where a page will be, while what it is made of is on its way. */
defineProps<{ title: string }>()
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>{{ title }}</h1>
    </div>
    <RowsSkeleton :cards="3" />
  </main>
</template>
