<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { localTime } from '@/shared/session'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

/** What an apprentice sees: their own papers, once their instructor released the feedback. */
const papers = ref<Schemas['MinePaper'][] | null>(null)
const { failure, attempt } = useFailing()
onMounted(() =>
  attempt(async () => {
    papers.value = (await ask(api.GET('/api/v1/mine'))).papers
  }),
)
</script>

<template>
  <main class="page">
    <div class="page-head"><h1>Your papers</h1></div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-else-if="!papers" :cards="2" />
    <div v-if="papers && !papers.length" class="empty">
      <p>
        Nothing to see yet. Your work is on paper for now; when your instructor releases the feedback, it shows here.
      </p>
      <RouterLink to="/reference">Look something up in the meantime</RouterLink>
    </div>
    <ul v-else class="papers">
      <li v-for="p in papers" :key="p.code" class="card">
        <RouterLink :to="`/feedback/${p.code}`"
          ><b>{{ p.title }}</b></RouterLink
        ><span class="soft"
          >{{ localTime(p.created_at) }}<template v-if="p.attempt > 1"> · attempt {{ p.attempt }}</template></span
        ><span class="num">{{ p.code }}</span>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.page {
  max-width: 760px;
}
.papers {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
.papers li {
  display: flex;
  gap: 14px;
  align-items: baseline;
  flex-wrap: wrap;
}
.papers b {
  font-size: 17px;
}
</style>
