<script setup lang="ts">
import { FailedRequest, sentence } from '@/api/client'
import { nextTick, ref } from 'vue'
import { asksSchool, logIn, provider } from '@/shared/session'
import { isShared, setShared } from '@/shared/store'

defineProps<{ again: boolean }>()
const login = ref('')
const password = ref('')
const school = ref('')
/** The code of an authenticator, once the server asks for it. */
const code = ref('')
const asksCode = ref(false)
const codeField = ref<HTMLInputElement | null>(null)
/** Why the school's own log-in sent somebody back, as the address says. */
const SENT_BACK: Record<string, string> = {
  provider: 'That log-in sent something that does not hold. Try again, or use your name and password.',
  provider_refused: 'That log-in let nobody in.',
  provider_stale: 'That took too long or was begun somewhere else. Try again.',
  provider_unknown: 'Nobody here has linked that log-in. Log in with name and password, then link it under your name.',
  lti: 'The learning platform sent something that does not hold. Open this from your course again.',
  lti_unknown: 'Nobody has entered that learning platform here. Ask your instructor.',
  lti_deployment: 'That learning platform opened this in a way nobody has entered here. Ask your instructor.',
  lti_role: 'Your role in that course is not known here. Ask your instructor.',
  lti_stale: 'That took too long or was begun somewhere else. Open this from your course again.',
  lti_no_class: 'Your instructor has not said yet which class that course is.',
  lti_left: 'The list of this class says that you left it. Ask your instructor.',
}
const failure = ref(SENT_BACK[window.location.hash.slice(1)] ?? '')
const busy = ref(false)
const shared = ref(isShared())

async function enter(): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    if (shared.value !== isShared()) setShared(shared.value)
    await logIn(login.value, password.value, school.value, code.value)
  } catch (error) {
    if (error instanceof FailedRequest && error.code === 'code_needed') {
      asksCode.value = true
      void nextTick(() => codeField.value?.focus())
    } else failure.value = sentence(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="door">
    <form class="card" @submit.prevent="enter">
      <img src="/icon.svg" alt="" width="44" height="44" />
      <h1>Wolfsbane</h1>
      <p class="soft">
        {{
          again
            ? 'Your log-in has expired. What you typed is still there.'
            : 'Refrigerant-circuit practice with numbers that agree.'
        }}
      </p>
      <label class="field"
        ><span>Name</span><input v-model="login" name="login" autocomplete="username" required autofocus
      /></label>
      <label class="field"
        ><span>Password</span
        ><input v-model="password" name="password" type="password" autocomplete="current-password" required
      /></label>
      <label v-if="asksSchool" class="field"
        ><span>School, as in its address (my-school)</span
        ><input v-model="school" name="school" autocomplete="organization" autocapitalize="none"
      /></label>
      <label v-if="asksCode" class="field"
        ><span>Code from your authenticator, or a recovery code</span
        ><input
          ref="codeField"
          v-model="code"
          name="code"
          inputmode="text"
          autocomplete="one-time-code"
          maxlength="20"
          required
      /></label>
      <label v-if="!again" class="shared"
        ><input v-model="shared" type="checkbox" name="shared" /> Shared computer: keep nothing on it</label
      >
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <el-button type="primary" native-type="submit" :loading="busy">Log in</el-button>
      <p v-if="provider" class="code">
        <a href="/api/v1/session/provider" data-test="provider">Log in with {{ provider }}</a>
      </p>
      <p v-if="!again" class="code"><a href="/welcome">I have a one-time code</a></p>
    </form>
  </main>
</template>

<style scoped>
.door {
  min-height: 100vh;
  display: grid;
  place-items: center;
}
form {
  width: 360px;
  padding: 28px;
}
.field input {
  font-size: 16px;
  padding: 8px 10px;
}
.shared {
  display: block;
  margin: 2px 0 12px;
  min-height: 24px;
}
.code {
  margin: 14px 0 0;
}
h1 {
  margin: 6px 0 2px;
}
</style>
