<script setup lang="ts">
/** One student's way through a call, beside the expert's. */
import { onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import WaysPicture from './WaysPicture.vue'

const run_id = Number(useRoute().params.id)
const found = ref<Schemas['ScreenReview'] | null>(null)
const { failure, attempt } = useFailing()
onMounted(() =>
  attempt(async () => {
    found.value = await ask(api.GET('/api/v1/screen/runs/{run_id}', { params: { path: { run_id } } }))
  }),
)
</script>

<template>
  <main class="page">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <template v-if="found">
      <div class="page-head">
        <h1>{{ found.name }}: {{ found.title }}, call {{ found.position }}</h1>
        <RouterLink :to="`/bench?run=${run_id}`" class="el-button" data-test="replay">Replay on the bench</RouterLink>
      </div>
      <WaysPicture :judged="found.judged" />
    </template>
  </main>
</template>
