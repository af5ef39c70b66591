<script setup lang="ts">
/** What was done to accounts, classes and the school: by whom and when, newest first. */
import { onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { localTime } from '@/shared/session'

/** Changes whenever something was done on the page. */
const props = defineProps<{ done: number }>()
const PAGE = 50
const rows = ref<Schemas['TrailRow'][]>([])
const more = ref(false)
const failure = ref('')
async function load(before: number | null = null): Promise<void> {
  try {
    const found = (await ask(api.GET('/api/v1/school/trail', { params: { query: { before } } }))).rows
    rows.value = before === null ? found : [...rows.value, ...found]
    more.value = found.length === PAGE
  } catch (error) {
    failure.value = sentence(error)
  }
}
watch(
  () => props.done,
  () => load(),
)
onMounted(() => load())
</script>

<template>
  <section class="card" aria-labelledby="trail">
    <h2 id="trail">What was done</h2>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="!rows.length" class="soft">
      Nothing yet. Accounts, classes, exports and imports are written down here and kept.
    </p>
    <table v-else class="list rows" data-test="trail">
      <thead class="off">
        <tr>
          <th>When</th>
          <th>Who and what</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.id">
          <td class="num when">{{ localTime(r.at) }}</td>
          <td>
            <b>{{ r.writer || 'The operator' }}</b> {{ r.did }}
          </td>
        </tr>
      </tbody>
    </table>
    <el-button v-if="more" size="small" @click="load(rows.at(-1)?.id ?? null)">Earlier</el-button>
  </section>
</template>

<style scoped>
.when {
  white-space: nowrap;
  width: 1%;
}
</style>
