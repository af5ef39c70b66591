<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { forget, kept, units } from '@/shared/kept'
import NumberField from '@/shared/NumberField.vue'

type Practice = Schemas['PracticeRow']
type Choice = Schemas['PracticeChoice']
const practices = ref<Practice[]>([])
const chosen = kept('practices.chosen', { id: 'plate_and_formula' })
const draft = kept<{
  base: string
  name: string
  reason: string
  units: 'us' | 'si'
  changes: Schemas['PracticeBody']['changes']
} | null>('practices.draft', null)
const failure = ref('')
const said = ref('')
const practice = computed(
  () => practices.value.find((s) => s.id === (draft.value?.base ?? chosen.value.id)) ?? practices.value[0],
)
const WORDS: Record<string, string> = {
  right: 'right',
  less_reliable: 'less reliable',
  wrong: 'wrong',
  formula: 'formula',
  chart: 'chart',
}
const plain = computed(() => practices.value.find((s) => s.id === 'plate_and_formula'))
const differs = (c: Choice) =>
  JSON.stringify(plain.value?.choices.find((x) => x.id === c.id)?.value) !== JSON.stringify(c.value)
const told = (c: Choice) =>
  c.kind === 'range'
    ? (c.value as number[]).join(' to ')
    : c.kind === 'switch'
      ? c.value
        ? 'yes'
        : 'no'
      : c.kind === 'word'
        ? (WORDS[String(c.value)] ?? String(c.value))
        : String(c.value)

function copy(): void {
  if (!practice.value) return
  const values = Object.fromEntries(
    practice.value.choices.map((c) => [c.id, Array.isArray(c.value) ? [...c.value] : c.value]),
  )
  draft.value = {
    base: practice.value.id,
    name: practice.value.own ? practice.value.name : `${practice.value.name}, ours`,
    reason: practice.value.reasons.own ?? '',
    units: units.value,
    changes: values,
  }
  said.value = ''
}
function drop(): void {
  draft.value = null
  forget('practices.draft')
  failure.value = ''
  void load()
}
async function run(work: () => Promise<{ practices: Practice[] }>): Promise<boolean> {
  failure.value = ''
  try {
    practices.value = (await work()).practices
    return true
  } catch (error) {
    failure.value = sentence(error)
    return false
  }
}
async function keep(): Promise<void> {
  const made = draft.value
  if (!made) return
  if (
    await run(() =>
      ask(
        api.POST('/api/v1/practices', {
          body: { base: made.base, name: made.name, changes: made.changes, reason: made.reason, units: made.units },
        }),
      ),
    )
  ) {
    const mine = practices.value.find((s) => s.own && s.name === made.name.trim())
    drop()
    chosen.value = { id: mine?.id ?? chosen.value.id }
    said.value = 'Saved. Choose it on the bench; scenarios carry it with them.'
  }
}
async function remove(): Promise<void> {
  const id = practice.value?.id
  if (
    id &&
    (await run(() =>
      ask(
        api.DELETE('/api/v1/practices/{practice_id}', {
          params: { path: { practice_id: id }, query: { units: units.value } },
        }),
      ),
    ))
  )
    chosen.value = { id: 'plate_and_formula' }
}
const list = (id: string) => draft.value?.changes[id] as number[]
const load = () =>
  run(() => ask(api.GET('/api/v1/practices', { params: { query: { units: draft.value?.units ?? units.value } } })))
// A copy that is being written stays in the units it was begun in, so that nothing typed changes under the hand.
watch(units, () => draft.value === null && void load())
onMounted(load)
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Practices</h1>
      <span class="soft">What counts as right where technicians differ. Each choice says why.</span>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="said" role="status">{{ said }}</p>
    <div class="two">
      <nav class="card" aria-label="Practices">
        <button
          v-for="s in practices"
          :key="s.id"
          type="button"
          :aria-current="s.id === practice?.id ? 'true' : undefined"
          :disabled="draft !== null"
          @click="chosen = { id: s.id }"
        >
          {{ s.name }}<small v-if="s.own">your own</small>
        </button>
      </nav>
      <section v-if="practice && !draft" class="card">
        <div class="head">
          <h2>{{ practice.name }}</h2>
          <span
            ><el-button v-if="practice.own" size="small" @click="remove">Delete it</el-button
            ><el-button type="primary" size="small" data-test="copy-practice" @click="copy">{{
              practice.own ? 'Change it' : 'Copy and change'
            }}</el-button></span
          >
        </div>
        <p v-if="practice.reasons.own">{{ practice.reasons.own }}</p>
        <table class="list">
          <tbody>
            <tr v-for="c in practice.choices" :key="c.id">
              <td>
                {{ c.label }}<small class="soft">{{ c.reason }}</small>
              </td>
              <td class="num value">
                <b>{{ told(c) }}</b> {{ c.unit }}<small v-if="differs(c)">differs from the usual practice</small>
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <form v-else-if="draft && practice" class="card" @submit.prevent="keep">
        <h2>A copy of “{{ practice.name }}”</h2>
        <label class="field"
          ><span>Name</span><input v-model="draft.name" maxlength="80" data-test="practice-name"
        /></label>
        <label class="field"
          ><span>Why it differs, in one sentence</span><input v-model="draft.reason" maxlength="300"
        /></label>
        <table class="list">
          <tbody>
            <tr v-for="c in practice.choices" :key="c.id">
              <td>{{ c.label }}</td>
              <td class="value">
                <template v-if="c.kind === 'number'"
                  ><NumberField
                    v-model="draft.changes[c.id] as number"
                    :step="0.5"
                    :min="c.low ?? undefined"
                    :max="c.high ?? undefined"
                    :aria-label="c.label"
                    :data-test="c.id"
                  />
                  {{ c.unit }}</template
                >
                <template v-else-if="c.kind === 'range'"
                  ><NumberField v-model="list(c.id)[0]" :step="0.5" :aria-label="`${c.label}, from`" /> to
                  <NumberField v-model="list(c.id)[1]" :step="0.5" :aria-label="`${c.label}, to`" />
                  {{ c.unit }}</template
                >
                <select v-else-if="c.kind === 'word'" v-model="draft.changes[c.id]" :aria-label="c.label">
                  <option v-for="w in c.words" :key="w" :value="w">{{ WORDS[w] ?? w }}</option>
                </select>
                <input v-else v-model="draft.changes[c.id]" type="checkbox" :aria-label="c.label" />
              </td>
            </tr>
          </tbody>
        </table>
        <div class="end">
          <el-button @click="drop">Discard it</el-button
          ><el-button type="primary" native-type="submit" data-test="keep-practice">Save it</el-button>
        </div>
      </form>
    </div>
    <p class="soft">
      Common practice, no published source; the manufacturer's own figures come first. Superheat and evaporator TD
      always use the dew point, subcooling and CTOA the bubble point.
    </p>
  </main>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 280px minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
nav {
  padding: 6px;
}
nav button {
  display: block;
  width: 100%;
  text-align: left;
  border: 0;
  background: none;
  padding: 8px 10px;
  font-size: 14.5px;
  cursor: pointer;
  color: var(--ink);
  border-left: 4px solid transparent;
}
nav button[aria-current] {
  border-left-color: var(--violet);
  background: var(--violet-soft);
  font-weight: 600;
}
nav small {
  display: block;
  color: var(--ink-soft);
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
h2 {
  text-transform: none;
  letter-spacing: 0;
  font-size: 17px;
}
.list td {
  padding: 5px 8px;
  font-size: 14px;
}
.list small {
  display: block;
  font-size: 12px;
  white-space: normal;
}
.value {
  text-align: right;
  white-space: nowrap;
}
.value small {
  color: var(--violet);
}
input:not([type='checkbox']),
select {
  font: inherit;
}
.field input {
  width: 100%;
}
.value input[type='number'] {
  width: 72px;
  text-align: right;
}
.value input[type='checkbox'] {
  width: 18px;
  height: 18px;
  accent-color: var(--violet);
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 12px;
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
