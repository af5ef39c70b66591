<script setup lang="ts">
import { computed, onUnmounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, named, type Schemas, sentence } from '@/api/client'
import { offerUndo } from '@/shared/asking'
import { kept, units } from '@/shared/kept'
import { useLater } from '@/shared/later'
import { startOnBench } from '@/shared/toBench'
import FileButton from '@/shared/FileButton.vue'
import { asFile, bodyOf, carriedForm, emptyForm, fieldOf, fromFile, LABELS, type ReadingsForm } from './form'
import ReadingAnswer from './ReadingAnswer.vue'
import ReadingFields from './ReadingFields.vue'

const form = kept<ReadingsForm>('readings.us', emptyForm())
const fields = ref<InstanceType<typeof ReadingFields> | null>(null)
const reply = ref<Schemas['DiagnosisReply'] | null>(null)
const failure = ref('')
const said = ref('')
const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
const router = useRouter()
let running: AbortController | null = null
const rest = useLater(350)

async function run(): Promise<void> {
  running?.abort()
  const mine = (running = new AbortController())
  try {
    reply.value = await ask(
      api.POST('/api/v1/diagnose', { body: bodyOf(form.value, form.value.units), signal: mine.signal }),
    )
    failure.value = ''
  } catch (error) {
    if (running === mine && !(error instanceof DOMException)) failure.value = named(error, LABELS)
  }
}
function clear(): void {
  const before = form.value
  form.value = emptyForm(units.value)
  offerUndo('The form is cleared.', () => {
    form.value = before
    return Promise.resolve()
  })
}
function save(): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([asFile(form.value)], { type: 'application/json' }))
  link.download = 'readings.json'
  link.click()
  URL.revokeObjectURL(link.href)
  said.value = 'Saved as readings.json: open it here again, or with “wolfsbane diagnose”.'
}
async function open(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  try {
    const { form: found, left } = fromFile(await file.text())
    form.value = carriedForm(found, units.value)
    said.value = left.length ? `This form has no field for ${left.join(', ')}.` : `${file.name} is open.`
  } catch {
    failure.value = `${file.name} is no file of readings: JSON with machine, conditions and readings.`
  }
  input.value = ''
}
const print = () => window.print()
const WEATHER = { outdoor_db: 'outdoor_db_f', return_db: 'return_db_f', return_wb: 'return_wb_f', box: 'box_f' }
const NO_ANSWER = ['not_enough_readings', 'not_settled']
/** The likeliest fault that the bench can show; none while the readings tell nothing. */
const likeliest = computed(() => {
  const ranked = reply.value?.ranked ?? []
  if (NO_ANSWER.includes(ranked[0]?.fault ?? '')) return undefined
  return ranked.find((r) => Object.keys(r.severities).length || r.fault === 'none')
})
async function toScenario(): Promise<void> {
  const found = reply.value
  if (!found?.computed.compared_with || !catalogue.value || !likeliest.value) return
  const plain = carriedForm(form.value, 'us')
  const weather: Record<string, number> = {}
  for (const [field, handle] of Object.entries(WEATHER)) {
    const read = plain.conditions[field]
    const value = read ? Number(read) : found.computed.guessed_f?.[field]
    if (value !== undefined && Number.isFinite(value)) weather[handle] = value
  }
  const water = Number(plain.readings.water_in ?? '')
  if (water) weather.water_in_f = water
  try {
    await startOnBench(router, catalogue.value, {
      machine: found.computed.compared_with,
      faults: Object.entries(likeliest.value.severities).map(([id, severity]) => ({ id, severity })),
      weather,
    })
  } catch (error) {
    failure.value = sentence(error)
  }
}
watch(units, (now) => (form.value = carriedForm(form.value, now)), { immediate: true })
watch(
  form,
  () => {
    said.value = ''
    rest.push(() => void run())
  },
  { deep: true, immediate: true },
)
onUnmounted(() => running?.abort())
void ask(api.GET('/api/v1/catalogue'))
  .then((found) => (catalogue.value = found))
  .catch((error: Error) => (failure.value = error.message))
</script>

<template>
  <main class="readings">
    <div>
      <div class="bar">
        <h1>Somebody’s readings</h1>
        <span class="grow" />
        <FileButton accept=".json,application/json" aria-label="Open a file of readings" @change="open"
          >Open</FileButton
        >
        <button type="button" data-test="save-readings" @click="save">Save</button>
        <button type="button" data-test="print-readings" @click="print">Print</button>
        <button type="button" data-test="clear" @click="clear">Clear</button>
        <button type="button" class="main" :disabled="!likeliest" data-test="to-scenario" @click="toScenario">
          Make this a scenario
        </button>
      </div>
      <p v-if="said" class="soft" role="status">{{ said }}</p>
      <ReadingFields ref="fields" v-model="form" :catalogue="catalogue" />
    </div>
    <section class="answer" aria-live="polite">
      <p v-if="failure" class="card error" role="alert">{{ failure }}</p>
      <ReadingAnswer v-if="reply" :reply="reply" @go="(kind, step) => fields?.go(kind, fieldOf(step))" />
    </section>
  </main>
</template>

<style scoped>
.readings {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 12px;
  padding: 12px 14px;
  max-width: 1500px;
  margin: 0 auto;
  align-items: start;
}
.bar {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-bottom: 8px;
  flex-wrap: wrap;
}
.bar h1 {
  margin: 0;
  font-size: 20px;
}
.grow {
  flex: 1;
}
.bar button,
.bar :deep(.as-button) {
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--card);
  color: var(--ink);
  font: inherit;
  font-size: 13.5px;
  padding: 3px 10px;
  min-height: 28px;
  cursor: pointer;
}
.bar .main {
  background: var(--violet);
  border-color: var(--violet);
  color: var(--white);
  font-weight: 600;
}
.bar .main:disabled {
  opacity: 0.5;
}
.answer {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-width: 0;
}
@media (max-width: 1000px) {
  .readings {
    grid-template-columns: 1fr;
  }
}
@media print {
  .readings {
    display: block;
  }
  .bar button,
  .bar :deep(.file) {
    display: none;
  }
}
</style>
