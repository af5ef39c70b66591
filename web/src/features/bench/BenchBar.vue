<script setup lang="ts">
import { computed } from 'vue'
import FindSelect from '@/shared/FindSelect.vue'
import { units } from '@/shared/kept'
import type { Bench } from './useBench'
import type { Saving } from './useSaving'

const props = defineProps<{ bench: Bench; saving: Saving }>()
const emit = defineEmits<{ project: []; keys: [] }>()
const { state, catalogue, machine, reply, history } = props.bench
const machines = computed(() =>
  (catalogue.value?.machines ?? []).map((m) => ({ id: m.id, label: `${m.name} · ${m.refrigerant}`, also: m.also })),
)
const { opened, busy, said, failure, save, saveNew, start } = props.saving
</script>

<template>
  <form class="bar" aria-label="Scenario" @submit.prevent="save">
    <FindSelect v-model="state.machine" :rows="machines" aria-label="Machine" class="machine" data-test="machine" />
    <details v-if="machine" class="plate">
      <summary>plate</summary>
      <div class="card">
        <p v-if="machine.notes" class="soft">{{ machine.notes }}</p>
        <dl>
          <template v-for="line in machine.plate[units]" :key="line.label"
            ><dt>{{ line.label }}</dt>
            <dd class="num">{{ line.text }}</dd></template
          >
        </dl>
        <RouterLink to="/machines">Enter a machine of your own</RouterLink>
      </div>
    </details>
    <span class="pair"
      ><button
        type="button"
        :disabled="!history.canUndo.value"
        aria-label="Undo"
        title="Undo (z)"
        data-test="undo"
        @click="history.undo()"
      >
        ↶</button
      ><button
        type="button"
        :disabled="!history.canRedo.value"
        aria-label="Redo"
        title="Redo (Shift+Z)"
        data-test="redo"
        @click="history.redo()"
      >
        ↷
      </button></span
    >
    <label class="practice"
      ><span>Practice</span
      ><select v-model="state.practice" aria-label="Practice">
        <option v-for="s in catalogue?.practices" :key="s.id" :value="s.id">{{ s.name }}</option></select
      ><RouterLink to="/practices" title="See the practices; copy and change one">change</RouterLink></label
    >
    <span class="grow" />
    <span v-if="failure" class="error" role="alert">{{ failure }}</span>
    <span v-else-if="said" class="said" role="status" data-test="saved"
      >{{ said }} <RouterLink to="/library">Library</RouterLink></span
    >
    <input
      v-model="state.title"
      class="title"
      maxlength="120"
      placeholder="Title of the scenario"
      aria-label="Title"
      data-test="title"
    />
    <el-button
      type="primary"
      native-type="submit"
      :loading="busy"
      :disabled="!state.title.trim() || !reply || !!reply.trip"
      data-test="save"
      >{{ !opened ? 'Save scenario' : opened.mine ? `Save version ${opened.version + 1}` : 'Save a copy' }}</el-button
    >
    <el-button v-if="opened?.mine" :disabled="busy || !state.title.trim()" class="next" @click="saveNew"
      >as new</el-button
    >
    <el-button v-if="opened" class="next" data-test="start-new" @click="start">close</el-button>
    <el-button class="next" :disabled="!reply || !!reply.trip" data-test="project" @click="emit('project')"
      >Project</el-button
    >
    <button type="button" class="keys" aria-label="Keyboard shortcuts" title="Shortcuts (?)" @click="emit('keys')">
      ?
    </button>
  </form>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 7px 14px 0;
  font-size: 13px;
}
.machine {
  width: 266px;
  flex: none;
}
.plate {
  position: relative;
}
.plate summary {
  cursor: pointer;
  color: var(--violet);
}
.plate .card {
  position: absolute;
  z-index: 20;
  top: 24px;
  left: -40px;
  width: 330px;
  box-shadow: 0 6px 24px rgb(29 27 38 / 18%);
}
.plate dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 12px;
  margin: 0 0 8px;
}
.plate dd {
  margin: 0;
  text-align: right;
  white-space: normal;
}
.plate p {
  margin: 0 0 6px;
  font-size: 12.5px;
}
.pair {
  display: flex;
}
.pair button,
.keys {
  border: 1px solid var(--edge);
  background: var(--card);
  color: var(--ink);
  width: 30px;
  height: 30px;
  font-size: 16px;
  cursor: pointer;
  border-radius: 3px;
}
.pair button:first-child {
  border-radius: 3px 0 0 3px;
  border-right: 0;
}
.pair button:last-child {
  border-radius: 0 3px 3px 0;
}
.pair button:disabled {
  color: var(--ink-faint);
  cursor: default;
  background: var(--paper);
}
.practice {
  display: flex;
  align-items: center;
  gap: 5px;
  min-width: 0;
}
.practice span {
  color: var(--ink-soft);
}
.practice select {
  width: 118px;
}
.grow {
  flex: 1;
}
.title {
  width: 170px;
  height: 32px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 0 8px;
  font: inherit;
  font-size: 14px;
  background: var(--card);
  color: var(--ink);
  min-width: 90px;
  flex: 0 1 auto;
}
.said {
  color: var(--good);
  white-space: nowrap;
}
.error {
  max-width: 260px;
  line-height: 1.15;
}
.next {
  margin-left: 0;
}
@media (max-width: 1180px) {
  .bar {
    flex-wrap: wrap;
  }
}
</style>
