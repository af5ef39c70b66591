<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Acting } from './acting'
import FindSelect from './FindSelect.vue'
import { tr } from '@/shared/language'

/** `once`: what was done stays done. */
const props = defineProps<{ work: Acting; once?: boolean }>()
const { actions, steps, act, undo, restart, busy } = props.work
const chosen = ref('')
const values = ref<Record<string, string>>({})
const action = computed(() => actions.value.find((a) => a.id === chosen.value))
const rows = computed(() => actions.value.map((a) => ({ id: a.id, label: a.name, group: a.group })))
const LABELS: Record<string, string> = {
  oz: 'Weight',
  g: 'Weight',
  rate_g_min: 'Rate',
  cylinder: 'From cylinder',
  into: 'Into cylinder',
  rate_oz_min: 'Rate',
  bursts: 'In bursts',
  phase: 'As',
  pct: 'Covered',
  turns: 'Turns',
  minutes: 'Minutes',
}
const quick = [
  ['5 min', 'wait', { minutes: 5 }],
  ['15 min', 'wait', { minutes: 15 }],
  ['1 h', 'wait', { minutes: 60 }],
  ['Settle', 'settle', {}],
  ['Start', 'start', {}],
  ['Stop', 'stop', {}],
] as const
const missing = computed(() =>
  (action.value?.parameters ?? []).some((p) => !p.optional && !String(values.value[p.name] ?? '').trim()),
)

function doIt(): void {
  if (!action.value || missing.value) return
  const given = Object.fromEntries(
    action.value.parameters.flatMap((p) => {
      const text = String(values.value[p.name] ?? '')
        .trim()
        .replace(',', '.')
      return text ? [[p.name, p.words.length ? text : Number(text)]] : []
    }),
  )
  act(action.value.id, given)
}
watch(action, (now) => {
  values.value = Object.fromEntries(
    (now?.parameters ?? []).map((p) => [p.name, p.default === null ? '' : String(p.default)]),
  )
})
</script>

<template>
  <div class="card do">
    <h2>{{ tr('Do') }}</h2>
    <div class="quick">
      <button v-for="[text, id, given] in quick" :key="text" type="button" :disabled="busy" @click="act(id, given)">
        {{ tr(text) }}
      </button>
    </div>
    <FindSelect
      v-model="chosen"
      :rows="rows"
      :placeholder="tr('Which action?')"
      :aria-label="tr('Action')"
      class="wide"
      data-test="action"
    />
    <form v-if="action" class="chosen" @submit.prevent="doIt">
      <label v-for="p in action.parameters" :key="p.name"
        ><span>{{ tr(LABELS[p.name] ?? p.name) }}</span>
        <select v-if="p.words.length" v-model="values[p.name]">
          <option v-for="w in p.words" :key="w">{{ w }}</option>
        </select>
        <span v-else class="entry"
          ><input
            v-model="values[p.name]"
            inputmode="decimal"
            :aria-label="tr(LABELS[p.name] ?? p.name)"
            :placeholder="p.optional ? tr('usual') : ''"
            :data-test="p.name"
          /><i>{{ p.unit }}</i></span
        >
      </label>
      <p class="cost">
        <b>{{
          action.minutes === null ? tr('takes as long as it takes') : tr('about {n} min', { n: action.minutes })
        }}</b><template v-if="action.money !== 'none'"> · {{ tr('money: {what}', { what: action.money }) }}</template
        ><template v-if="action.needs.length"> · {{ tr('needs {what}', { what: action.needs.join(', ') }) }}</template>
      </p>
      <p v-if="action.risk" class="risk">{{ action.risk }}</p>
      <el-button type="primary" native-type="submit" :disabled="missing" class="wide" data-test="do">{{
        action.name
      }}</el-button>
    </form>
    <div v-if="!once" class="back">
      <button type="button" :disabled="!steps.length" @click="undo">Undo last</button
      ><button type="button" :disabled="!steps.length" data-test="restart" @click="restart">Start over</button>
    </div>
  </div>
</template>

<style scoped>
.do {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.do h2 {
  margin: 0;
}
.wide {
  width: 100%;
}
.quick {
  display: grid;
  grid-template-columns: repeat(6, auto);
  gap: 3px;
}
.quick button,
.back button {
  border: 1px solid var(--edge);
  background: var(--card);
  border-radius: 3px;
  padding: 3px 4px;
  font-size: 12px;
  color: var(--ink);
  cursor: pointer;
  white-space: nowrap;
}
.quick button:hover,
.back button:hover:enabled {
  background: var(--violet-soft);
}
.back {
  display: flex;
  gap: 6px;
}
button:disabled {
  color: var(--ink-faint);
  cursor: default;
}
.chosen {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
label {
  display: grid;
  grid-template-columns: 96px 1fr;
  align-items: center;
  font-size: 13.5px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 6px;
}
.entry i {
  font-style: normal;
  font-size: 12px;
  color: var(--ink-soft);
  white-space: nowrap;
}
input,
select {
  width: 100%;
}
.cost,
.risk {
  margin: 0;
  font-size: 12.5px;
}
.risk {
  color: var(--amber);
}
</style>
