<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, named, type Schemas, sentence } from '@/api/client'
import { askFirst } from '@/shared/asking'
import CodeSlips, { type Slip } from '@/shared/CodeSlips.vue'
import { localTime, user } from '@/shared/session'
import FileButton from '@/shared/FileButton.vue'
import TrailCard from './TrailCard.vue'

const rows = ref<Schemas['AccountRow'][]>([])
const form = ref<{ login: string; name: string; role: 'instructor' | 'assistant' | 'apprentice' }>({
  login: '',
  name: '',
  role: 'assistant',
})
const failure = ref('')
const said = ref('')
/** Codes to hand over, and for how long they are good. */
const slips = ref<Slip[]>([])
const days = ref(14)
/** How often something was done here. */
const done = ref(0)
const ROLES = { instructor: 'Instructor', assistant: 'Assistant marker', apprentice: 'Apprentice' } as const

async function load(): Promise<void> {
  rows.value = (await ask(api.GET('/api/v1/accounts'))).accounts
  done.value++
}
async function run<A extends Schemas['AccountRow']>(work: () => Promise<A>, words: (made: A) => string): Promise<void> {
  failure.value = said.value = ''
  slips.value = []
  try {
    said.value = words(await work())
    await load()
  } catch (error) {
    failure.value = named(error, { login: 'Log-in', name: 'Name', role: 'Role' })
  }
}
function handOver(made: Schemas['AccountMade'], good: number): void {
  slips.value = [{ name: made.name, login: made.login, code: made.code ?? '' }]
  days.value = good
}
const add = () =>
  run(
    async () => {
      const made = await ask(api.POST('/api/v1/accounts', { body: { ...form.value, password: null } }))
      form.value = { login: '', name: '', role: form.value.role }
      return made
    },
    (a) => {
      handOver(a, 14)
      return `${a.name} is invited, and logs in as ${a.login} once a password is chosen.`
    },
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
/** A code for a new password; the one they had is void at once, so it is asked first. */
async function renew(a: Schemas['AccountRow']): Promise<void> {
  const path = { params: { path: { account_id: a.id } } }
  const sure = await askFirst({
    title: `A one-time code for ${a.name}?`,
    lines: [
      'Their password stops working now, and they are logged out everywhere.',
      ...(a.totp ? ['Their second factor is turned off.'] : []),
      'The code lets them choose a new one within two days.',
    ],
    yes: 'Make the code',
  })
  if (sure)
    await run(
      () => ask(api.POST('/api/v1/accounts/{account_id}/code', path)),
      (b) => {
        handOver(b, 2)
        return `Hand the code to ${b.name}.`
      },
    )
}
const logOutThere = (a: Schemas['AccountRow']) =>
  run(
    () => ask(api.DELETE('/api/v1/accounts/{account_id}/places', { params: { path: { account_id: a.id } } })),
    (b) => `${b.name} is logged out everywhere${b.login === user.value?.login ? ' but here' : ''}.`,
  )
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
    said.value = `Imported: ${rows.classes} classes, ${rows.scenarios} scenarios, ${rows.sheets} sheets, ${rows.papers} papers. Imported accounts need a one-time code.`
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
  input.value = ''
}
onMounted(() => load().catch((error: Error) => (failure.value = error.message)))
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Accounts of {{ user?.school }}</h1>
      <span class="files"
        ><RouterLink to="/password">Your account</RouterLink><RouterLink to="/platforms">Learning platforms</RouterLink
        ><a href="/api/v1/school/export.zip">Export the whole school</a
        ><FileButton accept=".zip,application/zip" @change="bringIn"
          >Import a school (into an empty one)</FileButton
        ></span
      >
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="said" role="status">{{ said }}</p>
    <div v-if="slips.length" class="handed"><CodeSlips :slips="slips" :days="days" @close="slips = []" /></div>
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
              <td>
                {{ a.name
                }}<small class="soft state"
                  >{{
                    a.code_until
                      ? `code waits until ${localTime(a.code_until)}`
                      : a.seen_at
                        ? `last here ${localTime(a.seen_at)}`
                        : 'not logged in'
                  }}{{ a.totp ? ' · second factor' : '' }}</small
                >
              </td>
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
                <el-button v-if="a.login !== user?.login" size="small" data-test="code-for" @click="renew(a)"
                  >New code</el-button
                ><el-button v-if="a.seen_at && a.login !== user?.login" size="small" @click="logOutThere(a)"
                  >Sign out</el-button
                >
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
        <h2>Invite somebody</h2>
        <label class="field"><span>Name</span><el-input v-model="form.name" maxlength="80" /></label>
        <label class="field"
          ><span>Log-in</span><el-input v-model="form.login" maxlength="60" autocomplete="off"
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
          data-test="invite"
          :disabled="!form.name.trim() || form.login.length < 3"
          >Make a one-time code</el-button
        >
        <p class="soft">They choose a password nobody else knows. Log-ins for a whole class: under Classes.</p>
      </form>
    </div>
    <TrailCard :done="done" />
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
.state {
  display: block;
}
.handed {
  margin-bottom: 14px;
}
.two + section {
  margin-top: 14px;
}
.files {
  display: flex;
  gap: 18px;
  align-items: baseline;
  flex-wrap: wrap;
}
</style>
