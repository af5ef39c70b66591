<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { keepPage } from '@/features/lab/session'
import { useFailing } from '@/shared/failing'
import { kept } from '@/shared/kept'
import { localTime } from '@/shared/session'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'
import { tr } from '@/shared/language'

/** What an apprentice sees: their own papers, once their instructor released the feedback. */
const papers = ref<Schemas['MinePaper'][] | null>(null)
/** Kept, so that a call that was begun is found again where the line is away. */
const calls = kept<Schemas['ScreenMineRow'][]>('mine.calls', [])
const lesson = ref<Schemas['LessonMine'] | null>(null)
const router = useRouter()
async function play(c: Schemas['ScreenMineRow']): Promise<void> {
  const path = { params: { path: { paper_call_id: c.paper_call_id } } }
  await attempt(async () => {
    const run = c.run_id ?? (await ask(api.POST('/api/v1/screen/mine/{paper_call_id}/begin', path))).run_id
    await router.push(`/play/${run}`)
  })
}
const { failure, attempt } = useFailing()
onMounted(() => {
  void keepPage()
  void attempt(async () => {
    papers.value = (await ask(api.GET('/api/v1/mine'))).papers
    calls.value = (await ask(api.GET('/api/v1/screen/mine'))).calls
    lesson.value = (await ask(api.GET('/api/v1/lessons/mine'))).lesson
  })
})
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>{{ tr('Your papers') }}</h1>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-else-if="!papers" :cards="2" />
    <p v-if="lesson" class="card on" data-test="lesson-on">
      <b>{{ tr('A lesson is on: {title}', { title: lesson.title }) }}</b>
      <RouterLink to="/vote" class="el-button el-button--primary">{{ tr('Vote') }}</RouterLink>
    </p>
    <section v-if="calls.length" aria-labelledby="on-screen">
      <h2 id="on-screen">{{ tr('On screen') }}</h2>
      <ul class="papers calls">
        <li v-for="c in calls" :key="`${c.paper_call_id} ${c.run_id}`" class="card" data-test="call">
          <b>{{ tr('{title}, call {n}', { title: c.title, n: c.position }) }}</b><span class="soft">{{
            c.machine
          }}</span
          ><span class="soft">{{
            c.minutes ? tr('exam, {n} min', { n: c.minutes }) : tr(c.mode === 'exam' ? 'exam' : 'practice')
          }}</span>
          <b v-if="c.earned !== null" class="num">{{ c.earned }}/{{ c.possible }}</b>
          <el-button v-if="c.open || c.run_id" size="small" :type="c.finished ? '' : 'primary'" @click="play(c)">{{
            tr(c.finished ? 'Look at it' : c.run_id ? 'Go on' : 'Begin')
          }}</el-button>
        </li>
      </ul>
      <h2>{{ tr('On paper') }}</h2>
    </section>
    <div v-if="papers && !papers.length" class="empty">
      <p>
        {{
          tr(
            'Nothing to see yet. Your work is on paper for now; when your instructor releases the feedback, it shows here.',
          )
        }}
      </p>
      <RouterLink to="/reference">{{ tr('Look something up in the meantime') }}</RouterLink>
    </div>
    <ul v-else class="papers">
      <li v-for="p in papers" :key="p.code" class="card">
        <RouterLink :to="`/feedback/${p.code}`"
          ><b>{{ p.title }}</b></RouterLink
        ><span class="soft"
          >{{ localTime(p.created_at)
          }}<template v-if="p.attempt > 1"> · {{ tr('attempt {n}', { n: p.attempt }) }}</template></span
        ><span class="num">{{ p.code }}</span>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.page {
  max-width: 760px;
}
.on {
  display: flex;
  gap: 14px;
  align-items: center;
  justify-content: space-between;
}
.papers {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
.papers li {
  display: flex;
  gap: 14px;
  align-items: baseline;
  flex-wrap: wrap;
}
.papers b {
  font-size: 17px;
}
.papers .el-button {
  margin-left: auto;
  align-self: center;
}
.papers + h2 {
  margin-top: 22px;
}
</style>
