<script setup lang="ts">
/** An instructor who came from a learning platform for the first time links their account here. */
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { user } from '@/shared/session'

const router = useRouter()
const waiting = ref<Schemas['LaunchWaiting'] | null>(null)
const failure = ref('')
async function run(work: () => Promise<unknown>): Promise<void> {
  failure.value = ''
  try {
    await work()
  } catch (error) {
    failure.value = sentence(error)
  }
}
const join = () =>
  run(async () => {
    const { course_id } = await ask(api.POST('/api/v1/lti/join'))
    await router.push(user.value?.role === 'instructor' ? `/platforms?course=${course_id}` : '/')
  })
onMounted(() =>
  run(async () => {
    waiting.value = await ask(api.GET('/api/v1/lti/waiting'))
  }),
)
</script>

<template>
  <main class="page">
    <section class="card narrow">
      <h1>Link your account</h1>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <template v-if="waiting">
        <p>
          You came from <b>{{ waiting.course }}</b> on <b>{{ waiting.platform }}</b><template v-if="waiting.name">
            as {{ waiting.name }}</template
          >. Linked once, that opens <b>{{ user?.name }}</b> here without a password.
        </p>
        <el-button type="primary" data-test="join" @click="join">Link {{ user?.name }}</el-button>
        <RouterLink to="/">Not now</RouterLink>
      </template>
    </section>
  </main>
</template>

<style scoped>
.narrow {
  max-width: 520px;
  margin: 30px auto;
}
.narrow a {
  margin-left: 14px;
}
</style>
