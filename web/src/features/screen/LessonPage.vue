<script setup lang="ts">
/** The instructor's side of a lesson: ask the class, count, do what it decided, and look at both ways at the end. */
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask } from '@/api/client'
import ActPanel from '@/shared/ActPanel.vue'
import type { Acting } from '@/shared/acting'
import { askFirst } from '@/shared/asking'
import { useFailing } from '@/shared/failing'
import FindSelect from '@/shared/FindSelect.vue'
import { kept } from '@/shared/kept'
import NumberField from '@/shared/NumberField.vue'
import LessonScene from './LessonScene.vue'
import VoteCount from './VoteCount.vue'
import WaysPicture from './WaysPicture.vue'
import { clock } from './play'
import { rows, useLooking, type Lesson } from './lesson'

const lesson_id = Number(useRoute().params.id)
const at = { params: { path: { lesson_id } } }
const lesson = ref<Lesson | null>(null)
const link = kept<{ id: number; token: string }>('lesson.link', { id: 0, token: '' })
const { failure, busy, attempt } = useFailing()
const run = (work: () => Promise<Lesson>) =>
  attempt(async () => {
    lesson.value = await work()
  })
useLooking(async () => {
  // votes come in meanwhile; what is under way is not overtaken
  if (busy.value || lesson.value?.ended) return
  await run(() => ask(api.GET('/api/v1/lessons/{lesson_id}', at)))
}, 2000)
const vote = computed(() => lesson.value?.vote ?? null)
const anyRead = computed(() => lesson.value?.steps.some((s) => s.kind === 'read' && s.reading?.side) ?? false)
const ASKING = computed(() =>
  (
    [
      ['next', 'What next?', !lesson.value?.named],
      ['read_off', 'What does it read?', anyRead.value],
      ['name', 'What is wrong?', !lesson.value?.named],
      ['work', 'What do we do?', lesson.value?.named ?? false],
    ] as const
  ).filter(([, , there]) => there),
)
const openVote = (kind: 'next' | 'read_off' | 'name' | 'work') =>
  run(() => ask(api.POST('/api/v1/lessons/{lesson_id}/vote', { ...at, body: { kind } })))
const count = () => run(() => ask(api.DELETE('/api/v1/lessons/{lesson_id}/vote', at)))
function doIt(choice: string, given: Record<string, unknown> | null = null): Promise<unknown> {
  if (choice === 'enough') return openVote('name')
  return run(() => ask(api.POST('/api/v1/lessons/{lesson_id}/steps', { ...at, body: { choice, arguments: given } })))
}
const decided = (id: string) => doIt(vote.value?.kind === 'read_off' ? `number:${id}` : id)
const handsFor = ref('')
const hands = ref(0)
const countHands = () =>
  run(async () => {
    const body = { choice: handsFor.value, count: hands.value }
    const found = await ask(api.PUT('/api/v1/lessons/{lesson_id}/hands', { ...at, body }))
    hands.value = 0
    return found
  })
const options = computed(() => rows(vote.value?.choices ?? []))
const direct = ref('')
async function straight(): Promise<void> {
  await doIt(direct.value)
  direct.value = ''
}
const work: Acting = {
  actions: computed(() => lesson.value?.actions ?? []),
  steps: ref([]),
  act: (action, given = {}) => void doIt(action === 'settle' ? 'settle' : `act:${action}`, given),
  undo: () => undefined,
  restart: () => undefined,
  busy,
}
async function classScreen(): Promise<void> {
  // the window is opened by the click itself: a browser stops one that comes later
  const wall = window.open('', '_blank')
  await attempt(async () => {
    if (link.value.id !== lesson_id)
      link.value = { id: lesson_id, token: (await ask(api.POST('/api/v1/lessons/{lesson_id}/link', at))).token }
    if (wall) wall.location.href = `/class-screen#${link.value.token}`
  })
}
async function end(): Promise<void> {
  const sure = await askFirst({
    title: 'End the lesson?',
    lines: ["The class's path and the expert's are shown side by side."],
    yes: 'End it',
  })
  if (sure) await run(() => ask(api.DELETE('/api/v1/lessons/{lesson_id}', at)))
}
</script>

<template>
  <main class="page">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="!lesson" class="soft">{{ failure ? '' : 'Starting the machine…' }}</p>
    <template v-else>
      <div class="page-head">
        <h1>{{ lesson.title }}, call {{ lesson.position }}: lesson</h1>
        <span>
          <span class="num soft at">{{ clock(lesson.minutes) }} h on site</span>
          <el-button size="small" data-test="class-screen" @click="classScreen">Class screen</el-button>
          <el-button v-if="!lesson.ended" size="small" data-test="end-lesson" @click="end">End the lesson</el-button>
        </span>
      </div>
      <WaysPicture v-if="lesson.judged" :judged="lesson.judged" first="The class’s path" />
      <div v-else class="grid">
        <section class="card remote" aria-labelledby="ask">
          <h2 id="ask">Ask the class</h2>
          <div class="asks">
            <el-button
              v-for="[kind, words] in ASKING"
              :key="kind"
              :disabled="busy || vote?.open"
              :data-test="`ask-${kind}`"
              @click="openVote(kind)"
              >{{ words }}</el-button
            >
          </div>
          <template v-if="vote">
            <VoteCount :vote="vote" />
            <template v-if="vote.open">
              <form class="hands" @submit.prevent="countHands">
                <label
                  ><span>Hands in the room for</span
                  ><input
                    v-if="vote.kind === 'read_off'"
                    v-model="handsFor"
                    inputmode="decimal"
                    maxlength="12"
                    data-test="hands-for" /><FindSelect
                    v-else
                    v-model="handsFor"
                    :rows="options"
                    data-test="hands-for"
                    aria-label="Hands for"
                /></label>
                <label><span>Hands</span><NumberField v-model="hands" :min="0" :max="400" data-test="hands" /></label>
                <el-button size="small" native-type="submit" :disabled="busy || !handsFor">Add</el-button>
              </form>
              <el-button type="primary" :disabled="busy" data-test="count" @click="count">Close the vote</el-button>
              <p class="soft">Students with a log-in vote under Your papers, Vote.</p>
            </template>
            <div v-else-if="vote.counted.length" class="asks">
              <span class="soft">Do it:</span>
              <el-button
                v-for="(c, n) in vote.middle ? [{ id: vote.middle, text: vote.middle }] : vote.counted.slice(0, 3)"
                :key="c.id"
                size="small"
                :type="n ? '' : 'primary'"
                :disabled="busy"
                :data-test="n ? undefined : 'do-decided'"
                @click="decided(c.id)"
                >{{ vote.middle ? `Write down ${c.text}` : c.text }}</el-button
              >
            </div>
          </template>
          <details>
            <summary>Without a vote</summary>
            <form class="hands" @submit.prevent="straight">
              <FindSelect v-model="direct" :rows="rows(lesson.at_once)" data-test="direct" aria-label="What to do" />
              <el-button size="small" native-type="submit" :disabled="busy || !direct || vote?.open">Do it</el-button>
            </form>
          </details>
          <ActPanel v-if="lesson.named" :work="work" once />
        </section>
        <section class="card">
          <LessonScene :lesson="lesson" :still="busy || lesson.named || !!vote?.open" @look="doIt(`look:${$event}`)" />
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: minmax(290px, 1fr) minmax(0, 2.4fr);
  gap: 14px;
  align-items: start;
}
.at {
  margin-right: 12px;
}
.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 8px 0;
}
.asks :deep(.el-button) {
  margin: 0;
}
.hands {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
  margin: 8px 0;
}
.hands label:first-child,
.hands > :first-child {
  flex: 1 1 180px;
}
.hands label span {
  display: block;
  font-size: 13px;
}
details {
  margin-top: 10px;
}
@media (max-width: 900px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
