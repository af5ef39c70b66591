<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import RubricLines from '@/features/marking/RubricLines.vue'
import FindSelect from '@/shared/FindSelect.vue'
import NumberField from '@/shared/NumberField.vue'
import MovesTable from './MovesTable.vue'

const props = defineProps<{ sheet: Schemas['SheetRow']; exclude: number | null }>()
const emit = defineEmits<{ changed: [] }>()
type Rules = {
  accept: { fault: string[]; action: string[] }
  wider: Record<string, number>
  void: string[]
  excluded: boolean
}
const position = ref(props.exclude ?? props.sheet.items[0]?.position ?? 1)
const rules = ref<Rules>({ accept: { fault: [], action: [] }, wider: {}, void: [], excluded: false })
const reason = ref('')
const moves = ref<Schemas['MoveRow'][] | null>(null)
const done = ref(false)
const asking = ref(false)
const failure = ref('')
const paper = ref<Schemas['PaperReply'] | null>(null)
const call = computed(() => paper.value?.calls.find((c) => c.position === position.value))
const WIDE = [
  ['saturation', 'Reading the PT scale'],
  ['sum', 'Subtractions and target'],
  ['edge', 'Edge of a target'],
  ['amount', 'Weight by the scale'],
  ['reading', 'Readings on the rig'],
] as const

/** Answers of a call as rows to pick from. */
const found = (rows: readonly { id: string | null; text: string }[]) =>
  rows.map((r) => ({ id: r.id ?? '', label: r.text }))

async function load(): Promise<void> {
  const rows = (
    await ask(api.GET('/api/v1/sheets/{sheet_id}/results', { params: { path: { sheet_id: props.sheet.id } } }))
  ).rows
  if (rows[0]) paper.value = await ask(api.GET('/api/v1/papers/{code}', { params: { path: { code: rows[0].code } } }))
}
watch(
  position,
  (now) => {
    const item = props.sheet.items.find((i) => i.position === now)
    const stored = item?.rules ?? {}
    rules.value = {
      accept: { fault: [...(stored.accept?.fault ?? [])], action: [...(stored.accept?.action ?? [])] },
      wider: { ...stored.wider },
      void: [...(stored.void ?? [])],
      excluded: stored.excluded ?? false,
    }
    moves.value = null
    done.value = false
  },
  { immediate: true },
)
load().catch((error: Error) => (failure.value = error.message))

async function send(confirmed: boolean): Promise<void> {
  failure.value = ''
  asking.value = true
  const accept = Object.fromEntries(Object.entries(rules.value.accept).filter(([, ids]) => ids.length))
  const wider = Object.fromEntries(Object.entries(rules.value.wider).filter(([, f]) => f > 1))
  try {
    const reply = await ask(
      api.PUT('/api/v1/sheets/{sheet_id}/rules', {
        params: { path: { sheet_id: props.sheet.id } },
        body: {
          position: position.value,
          rules: { accept, wider, void: rules.value.void, excluded: rules.value.excluded },
          reason: reason.value,
          confirmed,
        },
      }),
    )
    moves.value = reply.moves
    done.value = confirmed
    if (confirmed) emit('changed')
  } catch (error) {
    failure.value = sentence(error)
  } finally {
    asking.value = false
  }
}
watch(
  rules,
  () => {
    moves.value = null
    done.value = false
  },
  { deep: true },
)
/** Whoever comes from a call's column sees at once what excluding it, or counting it again, does. */
if (props.exclude) {
  rules.value.excluded = !rules.value.excluded
  reason.value = `Call ${props.exclude} ${rules.value.excluded ? 'excluded' : 'counts again'}`
  void nextTick(() => send(false))
}
</script>

<template>
  <div class="two">
    <form class="card" @submit.prevent="send(false)">
      <h2>Rules for one call</h2>
      <label class="field"
        ><span>Call</span
        ><select v-model="position" aria-label="Call" data-test="rule-call">
          <option v-for="i in sheet.items" :key="i.position" :value="i.position">
            {{ i.position }} · {{ i.title }}
          </option>
        </select></label
      >
      <el-checkbox v-model="rules.excluded" data-test="exclude-call">Exclude the whole call from the score</el-checkbox>
      <template v-if="call && call.choices.fault">
        <label class="field"
          ><span>Also accept as the fault</span
          ><FindSelect
            v-model="rules.accept.fault"
            multiple
            :rows="found(call.choices.fault)"
            data-test="accept-fault"
            aria-label="Also accept as the fault"
        /></label>
        <label class="field"
          ><span>Also accept as the first step</span
          ><FindSelect
            v-model="rules.accept.action"
            multiple
            :rows="found(call.choices.action ?? [])"
            aria-label="Also accept as the first step"
        /></label>
      </template>
      <p class="soft small">Widen tolerances, times:</p>
      <div class="wide">
        <label v-for="[key, name] in WIDE" :key="key"
          ><span>{{ name }}</span
          ><NumberField
            :min="1"
            :max="3"
            :step="0.5"
            :model-value="rules.wider[key] ?? 1"
            @update:model-value="rules.wider[key] = $event"
        /></label>
      </div>
      <label v-if="call" class="field"
        ><span>Excluded from the score</span
        ><FindSelect v-model="rules.void" multiple :rows="found(call.questions)" data-test="void" aria-label="Excluded"
      /></label>
      <el-button type="primary" native-type="submit" data-test="who-moves">Show score changes</el-button>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <RubricLines />
    </form>
    <section class="card">
      <h2>{{ done ? 'Marked again' : 'Score changes' }}</h2>
      <p v-if="moves === null && asking" class="soft" role="status">Marking again to see who gains and who loses …</p>
      <p v-else-if="moves === null" class="soft">
        Change a rule on the left; before anything is marked again you see who gains and who loses.
      </p>
      <template v-else>
        <MovesTable :moves="moves" :done="done" />
        <form v-if="!done" class="confirm" @submit.prevent="send(true)">
          <label class="field"
            ><span>Why (goes in the history)</span><el-input v-model="reason" maxlength="400" data-test="reason"
          /></label>
          <el-button type="primary" native-type="submit" :disabled="!reason.trim()" data-test="mark-again"
            >Mark again</el-button
          >
        </form>
      </template>
    </section>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 420px minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
.wide {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 14px;
  margin-bottom: 10px;
}
.wide label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  font-size: 14px;
}
.wide input {
  width: 58px;
  padding: 4px 6px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  font-size: 14px;
}
.small {
  margin: 0 0 4px;
  font-size: 13px;
}
.confirm {
  margin-top: 14px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
