<script setup lang="ts">
/** The way to a first marked paper, in five steps that can be left at any time. */
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { kept, units } from '@/shared/kept'

const props = defineProps<{ steps: Schemas['FirstStep'][]; starter: boolean }>()
const left = kept('today.guide', { left: false })
const { failure, busy, attempt } = useFailing()
const router = useRouter()
const WORDS: Record<string, [name: string, text: string, act: string]> = {
  class: ['A class', 'Paste the names, one a line, or a table from a spreadsheet.', 'Add a class'],
  sheet: ['A sheet', 'Say in one sentence what you need: “four calls for first years, 45 min”.', 'Start a sheet'],
  look: ['Look at it', 'See the first apprentice’s paper as it prints; change or draw again what you like.', 'Preview'],
  issue: [
    'Issue it',
    'Every apprentice gets other numbers, equally hard; packet and key are printed.',
    'Issue and print',
  ],
  mark: ['Mark a paper', 'Type its code, then what differs from the key; follow-through is marked for you.', 'Mark'],
}
const to = (step: Schemas['FirstStep']) =>
  step.id === 'class'
    ? '/classes'
    : step.id === 'mark'
      ? '/marking'
      : step.sheet_id === null || (step.id === 'sheet' && step.done)
        ? '/sheets?new=1'
        : `/sheets/${step.sheet_id}`
const next = computed(() => props.steps.find((s) => !s.done)?.id)
const add = () =>
  attempt(async () => {
    const made = await ask(api.POST('/api/v1/today/starter', { body: { units: units.value } }))
    await router.push(`/sheets/${made.sheet_id}`)
  })
</script>

<template>
  <section v-if="!left.left" class="card first" aria-label="First day" data-test="first-day">
    <div class="head">
      <h2>Your first sheet, in five steps</h2>
      <button type="button" class="plain" data-test="leave-guide" @click="left.left = true">Leave the guide</button>
    </div>
    <p v-if="starter" class="starter">
      <span>Nothing here yet. Start with ready scenarios, a sample class and a sample sheet to try everything on:</span
      ><el-button :loading="busy" data-test="starter" @click="add">Add the starter set</el-button>
    </p>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <ol>
      <li v-for="(s, n) in steps" :key="s.id" :class="{ done: s.done, next: s.id === next }">
        <b class="no" aria-hidden="true">{{ s.done ? '✓' : n + 1 }}</b>
        <span
          ><b
            >{{ WORDS[s.id]?.[0] }}<span class="off">{{ s.done ? ', done' : '' }}</span></b
          ><small class="soft">{{ WORDS[s.id]?.[1] }}</small></span
        ><RouterLink v-if="s.id === next" :to="to(s)" class="go">{{ WORDS[s.id]?.[2] }}</RouterLink>
      </li>
    </ol>
  </section>
  <button v-else type="button" class="plain" @click="left.left = false">Show the first-sheet guide</button>
</template>

<style scoped>
.first {
  border-left: 6px solid var(--violet);
  margin-bottom: 14px;
}
.head,
.starter {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  flex-wrap: wrap;
}
ol {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 10px;
}
li {
  display: grid;
  grid-template-columns: 28px 1fr;
  gap: 2px 8px;
  align-content: start;
  padding: 8px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
li.next {
  border-color: var(--violet);
  background: var(--violet-soft);
}
li small {
  display: block;
}
.no {
  width: 26px;
  height: 26px;
  border-radius: 50%;
  border: 2px solid var(--violet);
  text-align: center;
  line-height: 22px;
  color: var(--violet);
}
.done .no {
  background: var(--violet);
  color: var(--white);
}
.go {
  grid-column: 2;
  justify-self: start;
  margin-top: 6px;
  padding: 5px 12px;
  border-radius: 3px;
  background: var(--violet);
  color: var(--white);
  text-decoration: none;
  font-weight: 600;
}
.plain {
  border: 0;
  background: none;
  color: var(--violet);
  text-decoration: underline;
  cursor: pointer;
  min-height: 24px;
  font: inherit;
}
@media (max-width: 900px) {
  ol {
    grid-template-columns: 1fr;
  }
}
</style>
