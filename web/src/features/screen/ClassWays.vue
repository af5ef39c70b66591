<script setup lang="ts">
/** A class's ways through one call as one picture: columns are steps, rows are people, a branch is where they part. */
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'

const props = defineProps<{ sheet: number; position: number }>()
const found = ref<Schemas['ScreenWays'] | null>(null)
const { failure, attempt } = useFailing()
onMounted(() =>
  attempt(async () => {
    const path = { sheet_id: props.sheet, position: props.position }
    found.value = await ask(api.GET('/api/v1/sheets/{sheet_id}/screen/ways/{position}', { params: { path } }))
  }),
)
/** Height of one person, px: a big class still fits on a page. */
const row = computed(() => Math.min(Math.max(480 / (found.value?.people || 1), 22), 40))
const height = computed(() => (found.value?.people ?? 0) * row.value)
const short = (c: Schemas['ScreenCell']) => c.text.replace(/^(Look|Test|Read): /, '')
const MARKS: Record<string, string> = { look: 'Look', test: 'Test', read: 'Read', act: 'Work', plate: 'Plate' }
const ends = (text: string) => (text.endsWith('right') ? 'good' : text.endsWith('wrong') ? 'bad' : 'left')
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <p v-else-if="found && !found.people" class="soft">Nobody has handed in call {{ position }} yet.</p>
  <figure v-else-if="found">
    <figcaption class="soft">
      From left to right, step by step: a block is as tall as the number who did the same, and splits where they went
      different ways. A thick edge is the expert's path; points are what those people earned on average.
    </figcaption>
    <div class="scroll" tabindex="0" role="group" :aria-label="`Ways of ${found.people} through call ${position}`">
      <ol
        class="ways"
        :style="{ height: `${height}px`, gridTemplateColumns: `repeat(${found.columns}, minmax(132px, 1fr))` }"
      >
        <li
          v-for="(c, n) in found.cells"
          :key="n"
          :class="['cell', c.kind === 'end' ? ends(c.text) : c.kind, { expert: c.expert, alone: c.who.length < 2 }]"
          :style="{ gridColumn: c.column + 1, top: `${c.top * row}px`, height: `${c.who.length * row - 3}px` }"
          :title="`${c.what.join(', ')}: ${c.who.join(', ')}; ${Math.round(c.earned)} points on average`"
        >
          <b>{{ MARKS[c.kind] ? `${MARKS[c.kind]}: ${short(c).toLowerCase()}` : c.text }}</b>
          <span class="num">{{
            c.kind === 'end' ? `${Math.round(c.earned)} pts` : c.who.length > 1 ? c.who.length : ''
          }}</span>
        </li>
      </ol>
    </div>
  </figure>
</template>

<style scoped>
figure {
  margin: 8px 0 0;
}
figcaption {
  margin-bottom: 8px;
}
.scroll {
  overflow-x: auto;
}
.ways {
  display: grid;
  position: relative;
  list-style: none;
  margin: 0;
  padding: 0;
  gap: 3px;
}
.cell {
  position: relative;
  grid-row: 1;
  display: flex;
  justify-content: space-between;
  gap: 6px;
  padding: 2px 6px;
  overflow: hidden;
  font-size: 12.5px;
  line-height: 1.35;
  border-left: 4px solid var(--edge-soft);
  background: var(--card);
  box-shadow: inset 0 0 0 1px var(--line);
}
.cell b {
  font-weight: 500;
  min-width: 0;
}
.alone b {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.cell span {
  white-space: nowrap;
}
.look {
  border-left-color: var(--violet);
}
.test {
  border-left-color: var(--amber);
}
.read {
  border-left-color: var(--low);
}
.good {
  background: color-mix(in srgb, var(--good) 14%, var(--card));
  border-left-color: var(--good);
}
.bad {
  background: var(--high-tint);
  border-left-color: var(--high);
}
.expert {
  box-shadow: inset 0 0 0 2.5px var(--ink);
}
</style>
