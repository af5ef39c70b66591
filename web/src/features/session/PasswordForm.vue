<script setup lang="ts">
/** One's own password, by the old one; `first` where somebody else chose it and nothing else is open yet. */
import { ref } from 'vue'
import { named } from '@/api/client'
import { vFocus } from '@/shared/focus'
import { changePassword } from '@/shared/session'

defineProps<{ first?: boolean }>()
const old = ref('')
const password = ref('')
const again = ref('')
const failure = ref('')
const done = ref(false)
const busy = ref(false)
async function save(): Promise<void> {
  failure.value = ''
  done.value = false
  if (password.value !== again.value) {
    failure.value = 'The two new passwords are not the same.'
    return
  }
  busy.value = true
  try {
    await changePassword(old.value, password.value)
    old.value = password.value = again.value = ''
    done.value = true
  } catch (error) {
    failure.value = named(error, { old: 'Password now', password: 'New password' })
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="card" aria-labelledby="own-password" @submit.prevent="save">
    <h2 id="own-password">{{ first ? 'Choose a password of your own' : 'Password' }}</h2>
    <p v-if="first" class="soft">The one you logged in with was chosen by somebody else. Nobody will know this one.</p>
    <label class="field"
      ><span>Password now</span
      ><input v-model="old" v-focus type="password" name="old" autocomplete="current-password" required
    /></label>
    <label class="field"
      ><span>New password, 10 characters or more</span
      ><input v-model="password" type="password" name="new" autocomplete="new-password" minlength="10" required
    /></label>
    <label class="field"
      ><span>New password again</span
      ><input v-model="again" type="password" name="again" autocomplete="new-password" required
    /></label>
    <p v-if="!first" class="soft">
      Three or four words that do not belong together are good. You are logged out everywhere else.
    </p>
    <p v-else class="soft">Three or four words that do not belong together are good.</p>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="done" role="status" data-test="changed">Changed. Use the new one from now on.</p>
    <el-button
      type="primary"
      native-type="submit"
      :loading="busy"
      :disabled="!old || password.length < 10 || !again"
      data-test="change-password"
      >Change it</el-button
    >
  </form>
</template>

<style scoped>
form {
  max-width: 420px;
}
h2 {
  margin-bottom: 12px;
}
</style>
