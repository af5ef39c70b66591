<script setup lang="ts">
/** A student's vote in the lesson that is on. */
import { ref, watch } from 'vue'
import { api, ask, sentence, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { grouped, useLooking } from './lesson'
import { tr } from '@/shared/language'

const lesson = ref<Schemas['LessonMine'] | null>(null)
const seen = ref(false)
const lost = ref('')
const number = ref('')
const { failure, busy, attempt } = useFailing()

useLooking(async () => {
  try {
    lesson.value = (await ask(api.GET('/api/v1/lessons/mine'))).lesson
    lost.value = ''
  } catch (error) {
    lost.value = sentence(error)
  }
  seen.value = true
})
watch(
  () => lesson.value?.vote?.round,
  () => (number.value = ''),
)
const vote = (choice: string) =>
  attempt(async () => {
    const on = lesson.value
    if (!on?.vote) return
    const body = { round: on.vote.round, choice }
    lesson.value = (
      await ask(api.PUT('/api/v1/lessons/mine/{lesson_id}/vote', { params: { path: { lesson_id: on.id } }, body }))
    ).lesson
  })
</script>

<template>
  <main class="page vote">
    <p v-if="failure || lost" class="error" role="alert">{{ failure || lost }}</p>
    <p v-if="!seen" class="soft">{{ tr('Looking…') }}</p>
    <div v-else-if="!lesson" class="empty">
      <p>{{ tr('No lesson is on. It shows here when your instructor begins one.') }}</p>
      <RouterLink to="/mine">{{ tr('Your papers') }}</RouterLink>
    </div>
    <template v-else>
      <h1>{{ lesson.vote?.open ? lesson.vote.asks : lesson.title }}</h1>
      <p v-if="!lesson.vote?.open" role="status" class="card">
        {{ tr(`Watch the class screen. The next vote shows here.`) }}
      </p>
      <form v-else-if="lesson.vote.kind === 'read_off'" class="card" @submit.prevent="vote(number)">
        <label
          ><span>{{ tr('What do you read?') }}</span
          ><input v-model="number" inputmode="decimal" maxlength="12" data-test="my-number" autofocus
        /></label>
        <el-button type="primary" native-type="submit" :disabled="busy || !number.trim()">{{ tr('Send') }}</el-button>
        <p v-if="lesson.vote.own" role="status" data-test="my-vote">
          {{ tr('Sent:') }} <b class="num">{{ lesson.vote.own }}</b>. {{ tr('You can still change it.') }}
        </p>
      </form>
      <template v-else>
        <p class="soft" role="status">
          {{ tr(lesson.vote.own ? 'Your vote is in. You can still change it.' : 'Tap one.') }}
        </p>
        <section v-for="[name, some] in grouped(lesson.vote.choices)" :key="name">
          <h2 v-if="name">{{ name }}</h2>
          <div class="choices">
            <button
              v-for="c in some"
              :key="c.id"
              type="button"
              :aria-pressed="lesson.vote.own === c.id"
              :class="{ on: lesson.vote.own === c.id }"
              :disabled="busy"
              :data-test="`vote-${c.id}`"
              @click="vote(c.id)"
            >
              <span>{{ lesson.vote.own === c.id ? '✓ ' : '' }}{{ c.text }}</span
              ><small v-if="c.minutes" class="num">{{ c.minutes }} min</small>
            </button>
          </div>
        </section>
      </template>
    </template>
  </main>
</template>

<style scoped>
.page {
  max-width: 760px;
}
.choices {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
  gap: 6px;
}
.choices button {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
  min-height: 44px;
  padding: 6px 12px;
  font: inherit;
  text-align: left;
  border: 1px solid var(--edge-soft);
  border-radius: 3px;
  background: var(--card);
  color: var(--ink);
  cursor: pointer;
}
.choices button.on {
  background: var(--violet);
  border-color: var(--violet);
  color: var(--white);
}
label span {
  display: block;
}
input {
  font: inherit;
  font-size: 22px;
  padding: 8px;
  width: 140px;
  margin-right: 10px;
}
</style>
