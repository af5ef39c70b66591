<script setup lang="ts">
/** The class's screen of a lesson. It knows a token and nothing else, and draws what the class has seen. */
import { ref } from 'vue'
import LessonScene from './LessonScene.vue'
import VoteCount from './VoteCount.vue'
import WaysPicture from './WaysPicture.vue'
import { clock } from './play'
import { useLooking, type Lesson } from './lesson'

const lesson = ref<Lesson | null>(null)
const failure = ref('')
let revision = 0

useLooking(async () => {
  try {
    const reply = await fetch(`/api/v1/lessons/seen?since=${revision}`, {
      headers: { 'X-Wolfsbane-Lesson': location.hash.slice(1) },
      credentials: 'omit',
    })
    const body = await reply.json()
    failure.value = reply.ok ? '' : (body.error?.message ?? 'The server did not answer; trying again.')
    if (!reply.ok) lesson.value = null
    else if (body.shown) lesson.value = body.shown
    revision = reply.ok ? body.revision : 0
  } catch {
    failure.value = 'The server does not answer; trying again.'
  }
})
</script>

<template>
  <main class="wall">
    <p v-if="failure" role="alert">{{ failure }}</p>
    <template v-if="lesson">
      <header>
        <img src="/icon.svg" alt="" width="34" height="34" />
        <h1>
          {{ lesson.title }} <span class="soft">{{ lesson.machine }}</span>
        </h1>
        <p class="num">{{ clock(lesson.minutes) }} h on site, bill {{ Math.round(lesson.bill) }}</p>
      </header>
      <WaysPicture v-if="lesson.judged" :judged="lesson.judged" first="The class’s path" />
      <template v-else>
        <VoteCount v-if="lesson.vote?.open || lesson.vote?.counted.length" :vote="lesson.vote" class="votes" />
        <LessonScene :lesson="lesson" still />
      </template>
      <p class="care">
        For training, not a service instruction for a live machine. Local codes and licensed practice come first.
      </p>
    </template>
  </main>
</template>

<style scoped>
.wall {
  min-height: 100vh;
  padding: 12px 22px;
  font-size: 19px;
}
header {
  display: flex;
  gap: 16px;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  font-size: 26px;
  margin: 4px 0;
}
header p {
  margin: 0 0 0 auto;
}
.votes {
  margin: 8px 0;
  padding: 10px 14px;
  border: 2px solid var(--violet);
  border-radius: 4px;
}
.wall :deep(.spot) {
  font-size: 16px;
}
.care {
  color: var(--ink-soft);
  font-size: 14px;
}
</style>
