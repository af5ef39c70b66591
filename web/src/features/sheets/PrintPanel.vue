<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import NumberField from '@/shared/NumberField.vue'

const props = defineProps<{ sheet: Schemas['SheetRow'] }>()
const emit = defineEmits<{ print: [kinds: ('packet' | 'key' | 'feedback')[]] }>()
const HEAVY = ['packet', 'key', 'feedback']
/** What takes long for a whole class is printed in the background first. */
const waits = (kind: string) => HEAVY.includes(kind) && !props.sheet.at_hand.includes(kind)
const minutes = ref(30)
const count = ref<number | null>(null)
const people = ref<Schemas['PersonRow'][]>([])
const papers = ref<Schemas['ResultRow'][]>([])
const failure = ref('')
const made = ref<{ code: string; name: string } | null>(null)
const rigs = computed(() => props.sheet.items.some((i) => i.kind === 'rig'))
const slips = computed(() => props.sheet.items.some((i) => (i.data.asked.tests ?? []).length > 0))
const docs = computed(
  () =>
    [
      ['packet', 'Packet', `${props.sheet.papers} papers, two pages per call: front to diagnose, back to repair`, true],
      ['key', 'Key', 'every paper, readings after the repair, what wrong plans would have led to', true],
      ['guide', 'Marking guide', 'the rubric and the follow-through, with an example from this sheet', true],
      ['slips', 'Sealed results', 'slips to cut and fold for the tests that may be asked for', slips.value],
      ['charts', 'PT charts', 'one page for each refrigerant on the sheet', true],
      [
        'plants',
        'Rig setup cards',
        'set, stabilize, limits, undo, cautions, sign-off; predicted readings next to blanks',
        rigs.value,
      ],
      ['feedback', 'Feedback', 'for everybody whose paper is marked', props.sheet.marked > 0],
    ] as const,
)
const url = (kind: string) => `/api/v1/sheets/${props.sheet.id}/documents/${kind}`
const without = computed(() =>
  people.value.filter((p) => !p.gone && !papers.value.some((r) => r.apprentice_id === p.id)),
)

async function load(): Promise<void> {
  people.value =
    (await ask(api.GET('/api/v1/classes/{class_id}', { params: { path: { class_id: props.sheet.class_id } } })))
      .people ?? []
  papers.value = (
    await ask(api.GET('/api/v1/sheets/{sheet_id}/results', { params: { path: { sheet_id: props.sheet.id } } }))
  ).rows
}
async function more(apprentice: number, name: string): Promise<void> {
  failure.value = ''
  try {
    const done = await ask(
      api.POST('/api/v1/sheets/{sheet_id}/papers', {
        params: { path: { sheet_id: props.sheet.id } },
        body: { apprentice_id: apprentice },
      }),
    )
    made.value = { code: done.code, name }
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
}
onMounted(() => load().catch((error: Error) => (failure.value = error.message)))
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <div class="two">
    <section class="card">
      <h2>Whole class</h2>
      <ul class="docs">
        <li v-for="[kind, name, what, there] in docs" :key="kind">
          <template v-if="there"
            ><span v-if="waits(kind)"
              ><b>{{ name }}</b>
              <el-button
                size="small"
                :disabled="Boolean(sheet.printing)"
                :data-test="`print-${kind}`"
                @click="emit('print', [kind as 'packet'])"
                >Print</el-button
              ></span
            ><a v-else :href="url(kind)" target="_blank" :data-test="`open-${kind}`"
              ><b>{{ name }}</b></a
            ><span class="soft">{{ what }}</span></template
          >
        </li>
      </ul>
      <form v-if="rigs" class="rotation" @submit.prevent>
        <b>Station rotation</b><label>minutes per round <NumberField v-model="minutes" :min="5" :max="240" /></label
        ><label>rigs in the shop <NumberField v-model="count" :min="1" :max="12" /></label
        ><a
          :href="`/api/v1/sheets/${sheet.id}/rotation?minutes=${minutes || 30}${count ? `&rigs=${count}` : ''}`"
          target="_blank"
          >Print</a
        >
      </form>
    </section>
    <section class="card">
      <h2>One apprentice</h2>
      <p v-if="made" role="status" class="made">
        <b>{{ made.name }}</b>: paper <span class="num">{{ made.code }}</span> is made.
        <a :href="`/api/v1/papers/${made.code}/print`" target="_blank">Print it</a>
      </p>
      <p v-if="without.length" class="soft">Joined after this sheet was issued:</p>
      <ul class="late">
        <li v-for="p in without" :key="p.id">
          {{ p.name }} <el-button size="small" @click="more(p.id, p.name)">Make a paper</el-button>
        </li>
      </ul>
      <table class="list">
        <tbody>
          <tr v-for="r in papers" :key="r.code">
            <td>
              {{ r.name }}<small v-if="r.attempt > 1" class="soft"> attempt {{ r.attempt }}</small>
            </td>
            <td class="num">{{ r.code }}</td>
            <td class="right">
              <a :href="`/api/v1/papers/${r.code}/print`" target="_blank">Print again</a>
              <el-button size="small" link @click="more(r.apprentice_id, r.name)">Retake</el-button>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 16px;
  align-items: start;
}
.docs {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
}
.docs li:empty {
  display: none;
}
.docs li {
  display: grid;
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
.rotation {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
}
.rotation input {
  width: 64px;
}
.late {
  margin: 0 0 10px;
  padding-left: 18px;
}
.made {
  background: var(--violet-soft);
  padding: 8px 12px;
  border-radius: 3px;
}
.list td {
  padding: 5px 8px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
