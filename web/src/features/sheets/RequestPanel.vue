<script setup lang="ts">
/** A request in words: what was made of it stands below as it is typed, to be corrected. */
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { kept } from '@/shared/kept'
import { vFocus } from '@/shared/focus'

defineProps<{ busy: boolean }>()
const emit = defineEmits<{ build: [brief: Schemas['BriefRead']['brief']]; situations: [] }>()
type Read = Schemas['BriefRead']
type Left = Read['impossible'][number]
const PAUSE_MS = 300
const SITUATION = 'situation: '

const sentence = kept('sheet.sentence', '')
const read = ref<Read | null>(null)
const stopped = ref(false)
const { failure, attempt } = useFailing()
const left = computed<Left[]>(() =>
  [...(read.value?.not_understood ?? []), ...(read.value?.impossible ?? [])].sort((a, b) => a.start - b.start),
)

let asking: AbortController | null = null
let timer: ReturnType<typeof setTimeout> | undefined
async function fetched(): Promise<Read | null> {
  clearTimeout(timer)
  asking?.abort()
  if (!sentence.value.trim()) {
    read.value = null
    return null
  }
  const mine = (asking = new AbortController())
  const text = sentence.value
  try {
    const found = await ask(api.POST('/api/v1/briefs/read', { body: { text }, signal: mine.signal }))
    if (mine === asking) read.value = found
    return found
  } catch (error) {
    if (mine.signal.aborted) return null
    throw error
  }
}
const readNow = () =>
  attempt(async () => {
    await fetched()
  })
watch(sentence, () => {
  stopped.value = false
  clearTimeout(timer)
  timer = setTimeout(() => void readNow(), PAUSE_MS)
})
const build = () =>
  attempt(async () => {
    const found = await fetched()
    if (!found) return
    stopped.value = found.not_understood.length + found.impossible.length > 0
    if (!stopped.value) emit('build', found.brief)
  })
/** Words taken out of the sentence, or others put in their place. */
function change(row: { start: number; end: number }, words = ''): void {
  const before = sentence.value.slice(0, row.start)
  const after = sentence.value.slice(row.end)
  const text = words ? `${before}${words}${after}` : `${before.replace(/[\s,]+$/, '')}${after}`
  sentence.value = text.replace(/^[\s,]+/, '').replace(/\s{2,}/g, ' ')
  void readNow()
}
const asSituation = (row: Left) => (row.nearest?.startsWith(SITUATION) ? row.nearest.slice(SITUATION.length) : '')
onMounted(() => void readNow())
onBeforeUnmount(() => {
  clearTimeout(timer)
  asking?.abort()
})
</script>

<template>
  <form class="sentence" @submit.prevent="build">
    <label class="field"
      ><span>What do you need?</span
      ><el-input
        v-model="sentence"
        v-focus
        type="textarea"
        :rows="2"
        maxlength="600"
        placeholder="six calls on walk-ins and rooftops, easy to hard, no dirty condensers, one with nothing wrong, an hour"
        data-test="sentence"
    /></label>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <ul v-if="read" class="read" aria-label="What was understood" data-test="understood">
      <li v-for="row in read.understood" :key="row.start" :class="{ not: row.field.startsWith('not ') }">
        {{ row.text
        }}<button type="button" :aria-label="`Remove “${row.words}”`" @click="change(row)">
          <span aria-hidden="true">×</span>
        </button>
      </li>
    </ul>
    <ul v-if="left.length" class="left" aria-label="To be settled" data-test="left">
      <li v-for="row in left" :key="row.start">
        <span
          ><b>{{ row.words }}</b
          >{{ row.why ? `: ${row.why}` : ' was not understood' }}</span
        >
        <span class="ways-out">
          <button v-if="asSituation(row)" type="button" class="to" @click="emit('situations')">
            Situation: {{ asSituation(row) }}
          </button>
          <button v-else-if="row.nearest" type="button" class="to" @click="change(row, row.nearest)">
            {{ row.nearest }}
          </button>
          <button type="button" class="out" @click="change(row)">Remove</button>
        </span>
      </li>
    </ul>
    <p v-for="note in read?.notes ?? []" :key="note" class="soft">{{ note }}</p>
    <p v-if="stopped && left.length" class="unread" role="alert">
      Nothing is built yet: fix or remove what is marked in amber.
    </p>
    <el-button type="primary" native-type="submit" :loading="busy" :disabled="!sentence.trim()" data-test="read-brief"
      >Build calls, easy to hard</el-button
    >
  </form>
</template>

<style scoped>
.sentence {
  margin-bottom: 10px;
}
.read,
.left {
  list-style: none;
  padding: 0;
  margin: 0 0 10px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.read li {
  display: inline-flex;
  align-items: center;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding-left: 8px;
  font-size: 14px;
  background: var(--violet-soft);
}
.read li.not {
  background: none;
  border-style: dashed;
}
.read button {
  border: 0;
  background: none;
  cursor: pointer;
  min-width: 26px;
  min-height: 26px;
  font-size: 16px;
  color: var(--ink);
}
.left {
  flex-direction: column;
}
.left li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  border-left: 4px solid var(--amber);
  padding: 4px 0 4px 10px;
  font-size: 14px;
}
.ways-out {
  display: flex;
  gap: 6px;
  flex: none;
}
.left button {
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink);
  cursor: pointer;
  min-height: 28px;
  padding: 2px 8px;
  font-size: 14px;
}
.left .to {
  border-color: var(--violet);
  color: var(--violet);
  font-weight: 600;
}
.unread {
  border-left: 4px solid var(--amber);
  padding-left: 10px;
}
</style>
