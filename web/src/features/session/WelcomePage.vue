<script setup lang="ts">
/** In by a one-time code: whoever holds it chooses a password, and is logged in. The code of a link stands behind its #. */
import { onMounted, ref } from 'vue'
import { named } from '@/api/client'
import { enterByCode, whoseCode } from '@/shared/session'

const code = ref(decodeURIComponent(window.location.hash.slice(1)))
const whose = ref<{ login: string; name: string; school: string } | null>(null)
const password = ref('')
const again = ref('')
const failure = ref('')
const busy = ref(false)
async function run(work: () => Promise<void>): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    await work()
  } catch (error) {
    failure.value = named(error, { password: 'Password', code: 'Code' })
  } finally {
    busy.value = false
  }
}
const look = () =>
  run(async () => {
    whose.value = await whoseCode(code.value)
  })
const enter = () =>
  run(async () => {
    if (password.value !== again.value) throw new Error('The two passwords are not the same.')
    await enterByCode(code.value, password.value)
    window.location.assign('/')
  })
onMounted(() => code.value && look())
</script>

<template>
  <main class="door">
    <form class="card" @submit.prevent="whose ? enter() : look()">
      <img src="/icon.svg" alt="" width="44" height="44" />
      <h1>{{ whose ? `Welcome, ${whose.name}` : 'One-time code' }}</h1>
      <template v-if="whose">
        <p class="soft" data-test="whose">
          You log in to {{ whose.school }} as <b class="num">{{ whose.login }}</b>. Choose a password that nobody else
          knows; three or four words that do not belong together are good.
        </p>
        <input
          :value="whose.login"
          name="username"
          autocomplete="username"
          class="off"
          tabindex="-1"
          readonly
          aria-hidden="true"
        />
        <label class="field"
          ><span>Password, 10 characters or more</span
          ><input v-model="password" type="password" name="new" autocomplete="new-password" minlength="10" required
        /></label>
        <label class="field"
          ><span>Password again</span
          ><input v-model="again" type="password" name="again" autocomplete="new-password" required
        /></label>
      </template>
      <template v-else>
        <p class="soft">Your instructor gave it to you, on a slip or as a link.</p>
        <label class="field"
          ><span>Code</span
          ><input v-model="code" name="code" autocomplete="one-time-code" placeholder="XXXX-XXXX-XXXX" required
        /></label>
      </template>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <el-button
        type="primary"
        native-type="submit"
        :loading="busy"
        :disabled="whose ? password.length < 10 || !again : !code.trim()"
        >{{ whose ? 'Log in' : 'Go on' }}</el-button
      >
      <p><a href="/">Log in with name and password</a></p>
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
  max-width: 94vw;
  padding: 28px;
}
.field input {
  font-size: 16px;
  padding: 8px 10px;
}
h1 {
  margin: 6px 0 2px;
}
</style>
