<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { user } from '@/shared/session'
import FileButton from '@/shared/FileButton.vue'

const rows = ref<Schemas['AccountRow'][]>([])
const form = ref<{ login: string; name: string; role: 'instructor' | 'assistant' | 'apprentice'; password: string }>({
  login: '',
  name: '',
  role: 'assistant',
  password: '',
})
const failure = ref('')
/** The account that is given a new password, and what was typed. */
const renewing = ref<number | null>(null)
const password = ref('')
const said = ref('')
const ROLES = { instructor: 'Instructor', assistant: 'Assistant marker', apprentice: 'Apprentice' } as const

async function load(): Promise<void> {
  rows.value = (await ask(api.GET('/api/v1/accounts'))).accounts
}
async function run(
  work: () => Promise<Schemas['AccountRow']>,
  words: (made: Schemas['AccountRow']) => string,
): Promise<void> {
  failure.value = said.value = ''
  try {
    said.value = words(await work())
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
}
const add = () =>
  run(
    async () => {
      const made = await ask(api.POST('/api/v1/accounts', { body: form.value }))
      form.value = { login: '', name: '', role: form.value.role, password: '' }
      return made
    },
    (a) => `${a.name} can log in as ${a.login}.`,
  )
const change = (a: Schemas['AccountRow'], what: Partial<Schemas['AccountChange']>) =>
  run(
    () =>
      ask(
        api.PUT('/api/v1/accounts/{account_id}', {
          params: { path: { account_id: a.id } },
          body: { name: a.name, role: a.role as 'instructor', disabled: a.disabled, password: null, ...what },
        }),
      ),
    (b) => `${b.name}: ${b.disabled ? 'switched off' : ROLES[b.role as keyof typeof ROLES]}.`,
  )
async function renew(a: Schemas['AccountRow']): Promise<void> {
  await run(
    () =>
      ask(
        api.PUT('/api/v1/accounts/{account_id}', {
          params: { path: { account_id: a.id } },
          body: { name: a.name, role: a.role as 'instructor', disabled: a.disabled, password: password.value },
        }),
      ),
    (b) => `${b.name} has a new password.`,
  )
  if (failure.value) return
  renewing.value = null
  password.value = ''
}
/** An exported school into this one; the server refuses it unless this one is empty. */
async function bringIn(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  failure.value = said.value = ''
  try {
    const reply = await ask(
      api.POST('/api/v1/school/import', {
        body: file as never,
        bodySerializer: (b: unknown) => b as never,
        headers: { 'Content-Type': 'application/zip' },
      } as never),
    )
    const rows = (reply as Schemas['SchoolImported']).rows
    said.value = `Imported: ${rows.classes} classes, ${rows.scenarios} scenarios, ${rows.sheets} sheets, ${rows.papers} papers. Imported accounts need a new password.`
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
  input.value = ''
}
onMounted(() => load().catch((error: Error) => (failure.value = error.message)))

function askPassword(id: number) {
  renewing.value = id
  password.value = ''
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Accounts of {{ user?.school }}</h1>
      <span class="files"
        ><RouterLink to="/password">Change my password</RouterLink
        ><a href="/api/v1/school/export.zip">Export the whole school</a
        ><FileButton accept=".zip,application/zip" @change="bringIn"
          >Import a school (into an empty one)</FileButton
        ></span
      >
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="said" role="status">{{ said }}</p>
    <div class="two">
      <section class="card">
        <table class="list rows">
          <thead>
            <tr>
              <th>Name</th>
              <th>Log-in</th>
              <th>Role</th>
              <th><span class="off">Change</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="a in rows" :key="a.id" :class="{ off: a.disabled }">
              <td>{{ a.name }}</td>
              <td class="num">{{ a.login }}</td>
              <td>
                <select
                  :value="a.role"
                  :aria-label="`Role of ${a.name}`"
                  :disabled="a.login === user?.login"
                  @change="change(a, { role: ($event.target as HTMLSelectElement).value as 'instructor' })"
                >
                  <option v-for="(word, role) in ROLES" :key="role" :value="role">{{ word }}</option>
                </select>
              </td>
              <td class="right">
                <form v-if="renewing === a.id" class="renew" @submit.prevent="renew(a)">
                  <el-input
                    v-model="password"
                    type="password"
                    size="small"
                    maxlength="200"
                    autocomplete="new-password"
                    show-password
                    :aria-label="`New password for ${a.name}, 10 characters or more`"
                    placeholder="10 characters or more"
                  /><el-button size="small" type="primary" native-type="submit" :disabled="password.length < 10"
                    >Save</el-button
                  >
                </form>
                <el-button v-else size="small" @click="askPassword(a.id)">New password</el-button>
                <el-button v-if="a.login !== user?.login" size="small" @click="change(a, { disabled: !a.disabled })">{{
                  a.disabled ? 'Switch on' : 'Switch off'
                }}</el-button>
              </td>
            </tr>
          </tbody>
        </table>
        <p class="soft">
          An assistant marker opens sheets and papers and types in answers, but cannot change a rule or a mark. An
          apprentice sees their own feedback once it is released.
        </p>
      </section>
      <form class="card" @submit.prevent="add">
        <h2>New account</h2>
        <label class="field"><span>Name</span><el-input v-model="form.name" maxlength="80" /></label>
        <label class="field"
          ><span>Log-in</span><el-input v-model="form.login" maxlength="60" autocomplete="off"
        /></label>
        <label class="field"
          ><span>First password, 10 characters or more</span
          ><el-input v-model="form.password" type="password" maxlength="200" autocomplete="new-password" show-password
        /></label>
        <label class="field"
          ><span>Role</span
          ><select v-model="form.role" aria-label="Role">
            <option v-for="(word, role) in ROLES" :key="role" :value="role">{{ word }}</option>
          </select></label
        >
        <el-button
          type="primary"
          native-type="submit"
          :disabled="!form.name.trim() || form.login.length < 3 || form.password.length < 10"
          >Add</el-button
        >
      </form>
    </div>
  </main>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 14px;
  align-items: start;
}
.off {
  opacity: 0.65;
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: 1fr;
  }
}
.renew {
  display: inline-flex;
  gap: 6px;
  width: 250px;
  margin-right: 12px;
}
.files {
  display: flex;
  gap: 18px;
  align-items: baseline;
  flex-wrap: wrap;
}
</style>
