<script setup lang="ts">
import { sentence } from '@/api/client'
import { ref } from 'vue'
import { logIn } from '@/shared/session'

defineProps<{ again: boolean }>()
const login = ref('')
const password = ref('')
const failure = ref('')
const busy = ref(false)

async function enter(): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    await logIn(login.value, password.value)
  } catch (error) {
    failure.value = sentence(error)
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
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <el-button type="primary" native-type="submit" :loading="busy">Log in</el-button>
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
input {
  width: 100%;
  font-size: 16px;
  padding: 8px 10px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--white);
}
h1 {
  margin: 6px 0 2px;
}
</style>
