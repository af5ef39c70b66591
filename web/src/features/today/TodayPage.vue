<script setup lang="ts">
/** The first screen: what waits, each one click away. */
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { units } from '@/shared/kept'
import { user } from '@/shared/session'
import FirstDay from './FirstDay.vue'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

type Sheet = Schemas['WaitingSheet']
const today = ref<Schemas['TodayReply'] | null>(null)
const { failure, busy, attempt } = useFailing()
const router = useRouter()
const packet = (s: Sheet) => `/api/v1/sheets/${s.id}/documents/packet`
const lists = computed(() => {
  const t = today.value
  if (!t) return []
  return [
    ['Papers to mark', t.to_mark, (s: Sheet) => `${s.papers - s.marked} of ${s.papers} left`],
    ['Feedback to release', t.to_release, (s: Sheet) => `all ${s.papers} marked`],
    ['Packets to print', t.to_print, (s: Sheet) => `${s.papers} papers`],
    ['Drafts', t.drafts, () => 'not issued yet'],
    ['Being built', t.building, () => 'in the background'],
  ] as const
})
const nothing = computed(() => today.value && !today.value.rigs.length && lists.value.every(([, rows]) => !rows.length))
const draft = (week: Schemas['NextWeek']) =>
  attempt(async () => {
    const made = await ask(
      api.POST('/api/v1/courses/{course_id}/drafts', {
        params: { path: { course_id: week.course_id } },
        body: { class_id: week.class_id, units: units.value, weeks: [week.week] },
      }),
    )
    await router.push(`/sheets/${made.sheets[0]?.id}`)
  })
onMounted(() =>
  attempt(async () => {
    today.value = await ask(api.GET('/api/v1/today'))
  }),
)
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Today</h1>
      <span v-if="user" class="soft">{{ user.school }}</span>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-if="!today && !failure" :cards="3" />
    <FirstDay v-if="today?.first_steps.length" :steps="today.first_steps" :starter="today.starter" />
    <nav class="starts" aria-label="Begin">
      <RouterLink to="/sheets?new=1">New sheet</RouterLink>
      <RouterLink to="/bench">New scenario</RouterLink>
      <RouterLink to="/marking">Mark by code</RouterLink>
      <RouterLink to="/readings">Readings of a machine</RouterLink>
      <RouterLink to="/classes">Classes</RouterLink>
    </nav>
    <p v-if="nothing && !today?.first_steps.length" class="card">
      Nothing is waiting. Start a sheet from one sentence, or open a course.
    </p>
    <div v-if="today" class="lists">
      <template v-for="[name, rows, say] in lists" :key="name">
        <section v-if="rows.length" class="card" :aria-label="name">
          <h2>{{ name }}</h2>
          <ul>
            <li v-for="s in rows" :key="s.id">
              <RouterLink :to="`/sheets/${s.id}`"
                ><b>{{ s.title }}</b></RouterLink
              >
              <span class="soft">{{ s.class_name }} · {{ say(s) }}</span>
              <a v-if="name === 'Packets to print'" :href="packet(s)" target="_blank" class="act">Packet</a>
              <RouterLink v-else-if="name === 'Papers to mark'" to="/marking" class="act">Mark</RouterLink>
              <i v-if="name === 'Papers to mark'" :style="{ width: `${(100 * s.marked) / s.papers}%` }" />
            </li>
          </ul>
        </section>
      </template>
      <section v-if="today.rigs.length" class="card" aria-label="Rigs to look at">
        <h2>Rigs to look at</h2>
        <ul>
          <li v-for="r in today.rigs" :key="r.id">
            <RouterLink :to="`/rigs/${r.id}`"
              ><b>{{ r.name }}</b></RouterLink
            >
            <span class="soft">{{ r.why }}</span>
          </li>
        </ul>
      </section>
      <section v-if="today.next_weeks.length" class="card" aria-label="Next week of a course">
        <h2>Next week of a course</h2>
        <ul>
          <li v-for="w in today.next_weeks" :key="`${w.class_id}${w.course_id}`">
            <b>Week {{ w.week }}: {{ w.title }}</b>
            <span class="soft">{{ w.class_name }} · {{ w.course }}</span>
            <button type="button" class="act" :disabled="busy" @click="draft(w)">Draft it</button>
          </li>
        </ul>
      </section>
    </div>
  </main>
</template>

<style scoped>
.starts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 14px;
}
.starts a,
.act {
  border: 1px solid var(--violet);
  border-radius: 3px;
  padding: 6px 12px;
  min-height: 32px;
  text-decoration: none;
  color: var(--violet);
  background: var(--white);
  font: inherit;
  font-size: 15px;
  cursor: pointer;
}
.starts a:first-child {
  background: var(--violet);
  color: var(--white);
}
.lists {
  columns: 380px 2;
  column-gap: 14px;
}
.lists .card {
  break-inside: avoid;
  margin-bottom: 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 10px;
  align-items: center;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
li:last-child {
  border-bottom: 0;
}
li .soft {
  grid-column: 1;
  font-size: 14px;
}
li .act {
  grid-column: 2;
  grid-row: 1 / span 2;
}
li i {
  grid-column: 1 / -1;
  height: 5px;
  margin-top: 4px;
  background: var(--violet);
  border-radius: 2px;
}
li b {
  overflow-wrap: anywhere;
}
</style>
