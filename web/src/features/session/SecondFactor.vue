<script setup lang="ts">
/** A code from an authenticator beside the password: turned on by a code of it, off by the password. */
import { ref } from 'vue'
import { api, ask, named, type Schemas } from '@/api/client'
import { user } from '@/shared/session'

const password = ref('')
const code = ref('')
const offered = ref<Schemas['SecondFactorReply'] | null>(null)
const recovery = ref<string[]>([])
const failure = ref('')
async function run(work: () => Promise<void>): Promise<void> {
  failure.value = ''
  try {
    await work()
  } catch (error) {
    failure.value = named(error, { password: 'Password', code: 'Code' })
  }
}
const propose = () =>
  run(async () => {
    offered.value = await ask(api.POST('/api/v1/session/second-factor', { body: { password: password.value } }))
    password.value = ''
  })
const take = () =>
  run(async () => {
    recovery.value = (await ask(api.PUT('/api/v1/session/second-factor', { body: { code: code.value } }))).codes
    offered.value = null
    code.value = ''
    if (user.value) user.value = { ...user.value, totp: true }
  })
const drop = () =>
  run(async () => {
    await ask(api.POST('/api/v1/session/second-factor/off', { body: { password: password.value } }))
    password.value = ''
    recovery.value = []
    if (user.value) user.value = { ...user.value, totp: false }
  })
</script>

<template>
  <section class="card" aria-labelledby="second-factor">
    <h2 id="second-factor">
      Second factor <span :class="['badge', { on: user?.totp }]">{{ user?.totp ? 'on' : 'off' }}</span>
    </h2>
    <div v-if="recovery.length" data-test="recovery">
      <p>
        <b>Keep these codes somewhere safe.</b> Each lets you in once without the authenticator. They are shown this
        once.
      </p>
      <ul class="codes num">
        <li v-for="one in recovery" :key="one">{{ one }}</li>
      </ul>
    </div>
    <form v-else-if="offered" @submit.prevent="take">
      <p>Scan this with an authenticator app, or type the key, then give the code it shows.</p>
      <img :src="offered.picture" alt="QR code with the key for the authenticator" width="172" height="172" />
      <p class="num key">{{ offered.secret.replace(/(.{4})/g, '$1 ') }}</p>
      <label class="field"
        ><span>Code, six digits</span
        ><input v-model="code" name="totp" inputmode="numeric" autocomplete="one-time-code" maxlength="10" required
      /></label>
      <el-button type="primary" native-type="submit" :disabled="code.length < 6">Turn it on</el-button>
    </form>
    <form v-else @submit.prevent="user?.totp ? drop() : propose()">
      <p class="soft">
        {{
          user?.totp
            ? 'Besides the password you are asked for the code of your authenticator.'
            : 'With it, a stolen password alone lets nobody in: you are also asked for a code that an app on your phone shows.'
        }}
      </p>
      <label class="field"
        ><span>Your password</span
        ><input v-model="password" name="for-factor" type="password" autocomplete="current-password" required
      /></label>
      <el-button :type="user?.totp ? 'default' : 'primary'" native-type="submit" :disabled="!password">{{
        user?.totp ? 'Turn it off' : 'Set it up'
      }}</el-button>
    </form>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  </section>
</template>

<style scoped>
.badge {
  font-size: 13px;
  font-weight: 600;
  border: 1px solid var(--edge);
  border-radius: 9px;
  padding: 1px 8px;
  margin-left: 6px;
}
.badge.on {
  background: var(--violet);
  color: var(--white);
}
.key {
  letter-spacing: 0.5px;
  word-break: break-word;
}
.codes {
  columns: 2;
  padding-left: 18px;
}
form img {
  display: block;
}
</style>
