<script setup lang="ts">
/** Points sent back to the class's learning platform, where it has one. */
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { localTime } from '@/shared/session'

const props = defineProps<{ sheet: number; sends: boolean }>()
const AGAIN_MS = 2000
const state = ref<Schemas['PointsReply'] | null>(null)
const failure = ref('')
let timer = 0
const at = { params: { path: { sheet_id: props.sheet } } }
const sent = computed(() => state.value?.rows.filter((r) => r.sent_at) ?? [])
const not = computed(() => state.value?.rows.filter((r) => r.problem) ?? [])
const last = computed(() =>
  sent.value
    .map((r) => r.sent_at ?? '')
    .sort()
    .at(-1),
)
async function run(work: () => Promise<Schemas['PointsReply']>): Promise<void> {
  window.clearTimeout(timer)
  failure.value = ''
  try {
    state.value = await work()
    if (state.value.waiting) timer = window.setTimeout(look, AGAIN_MS)
  } catch (error) {
    failure.value = sentence(error)
  }
}
const look = () => run(() => ask(api.GET('/api/v1/sheets/{sheet_id}/points', at)))
const send = () => run(() => ask(api.POST('/api/v1/sheets/{sheet_id}/points', at)))
onMounted(look)
onUnmounted(() => window.clearTimeout(timer))
</script>

<template>
  <section v-if="state?.platforms.length || failure" class="card" aria-labelledby="points">
    <h2 id="points">Points to {{ state?.platforms.join(', ') }}</h2>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="state?.waiting" role="status">Sending {{ state.waiting }}…</p>
    <p v-else-if="sent.length" class="soft" data-test="sent">{{ sent.length }} sent, {{ localTime(last ?? '') }}.</p>
    <p v-else class="soft">Papers that are wholly marked are sent; the platform keeps the newest.</p>
    <ul v-if="not.length" class="error">
      <li v-for="r in not" :key="r.name">{{ r.name }} {{ r.problem }}</li>
    </ul>
    <el-button v-if="sends" data-test="send-points" :disabled="!!state?.waiting" @click="send"
      >Send the points</el-button
    >
  </section>
</template>
