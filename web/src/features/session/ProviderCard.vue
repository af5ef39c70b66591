<script setup lang="ts">
/** One's account linked with the school's own log-in, where there is one. */
import { onMounted, ref } from 'vue'
import { api, ask, sentence } from '@/api/client'
import { provider } from '@/shared/session'

const there = ref(false)
const linked = ref(false)
const failure = ref(
  window.location.hash === '#provider_taken' ? 'That log-in is linked with another account already.' : '',
)
async function run(work: () => Promise<{ there: boolean; linked: boolean }>): Promise<void> {
  try {
    const found = await work()
    there.value = found.there
    linked.value = found.linked
  } catch (error) {
    failure.value = sentence(error)
  }
}
onMounted(() => run(() => ask(api.GET('/api/v1/session/provider/linked'))))
</script>

<template>
  <section v-if="there" class="card" aria-labelledby="provider">
    <h2 id="provider">{{ provider || 'The school’s log-in' }}</h2>
    <p v-if="linked">Linked: you can log in with it. Your name and password stay good.</p>
    <p v-else class="soft">Linked once, you log in here without a password of ours.</p>
    <el-button v-if="linked" @click="run(() => ask(api.DELETE('/api/v1/session/provider/linked')))"
      >Take the link away</el-button
    >
    <a v-else href="/api/v1/session/provider?link=true" data-test="link">Link my account</a>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  </section>
</template>
