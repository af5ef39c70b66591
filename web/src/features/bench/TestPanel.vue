<script setup lang="ts">
import FindSelect from '@/shared/FindSelect.vue'
import { ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import type { Bench } from './useBench'

const props = defineProps<{ bench: Bench }>()
const { machine, body } = props.bench
const answers = ref<Schemas['TestReply'][]>([])
const failure = ref('')

async function run(test: string): Promise<void> {
  failure.value = ''
  const asked = JSON.stringify(body.value)
  try {
    const found = await ask(api.POST('/api/v1/bench/test', { body: { ...body.value, test } }))
    if (asked === JSON.stringify(body.value))
      answers.value = [found, ...answers.value.filter((a) => a.test !== test)].slice(0, 4)
  } catch (error) {
    failure.value = sentence(error)
  }
}
// An answer belongs to the machine as it was planted.
watch(body, () => (answers.value = []))
</script>

<template>
  <div class="card tests">
    <div class="head">
      <h2>Ask for a test</h2>
      <p v-if="!answers.length" class="soft">
        Pump-down, bulb, standing pressure, checking the filter: the machine answers as it is set.
      </p>
    </div>
    <FindSelect
      :model-value="''"
      :rows="(machine?.tests ?? []).map((t) => ({ id: t.id, label: t.name }))"
      placeholder="Which test or inspection?"
      aria-label="Test"
      class="wide"
      data-test="test"
      @update:model-value="run"
    />
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <dl aria-live="polite">
      <template v-for="a in answers" :key="a.test"
        ><dt>
          {{ a.name }} <span class="soft">· {{ a.minutes }} min</span>
        </dt>
        <dd data-test="answer">
          <b>{{ a.answer }}</b> {{ a.text }}<em v-if="a.caution">{{ a.caution }}</em>
        </dd></template
      >
    </dl>
  </div>
</template>

<style scoped>
.tests {
  padding: 10px 14px;
}
.wide {
  width: 100%;
}
.head p {
  margin: 0 0 4px;
  font-size: 12.5px;
}
dl {
  margin: 4px 0 0;
  font-size: 13.5px;
}
dt {
  font-weight: 600;
  margin-top: 6px;
}
dd {
  margin: 0;
}
dd b {
  color: var(--violet);
  margin-right: 4px;
}
dd em {
  display: block;
  font-style: normal;
  color: var(--amber);
  font-size: 12px;
}
</style>
