<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept, units } from '@/shared/kept'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

type Course = Schemas['CourseRow']
type Week = Schemas['CourseWeek']
const courses = ref<Course[]>([])
const classes = ref<Schemas['ClassRow'][] | null>(null)
const chosen = kept('courses.chosen', { id: 'cooling', class_id: null as number | null })
const drafted = ref<Schemas['DraftedSheet'][]>([])
const busy = ref<number | 'all' | null>(null)
const failure = ref('')
const course = computed(() => courses.value.find((c) => c.id === chosen.value.id) ?? courses.value[0])
const hours = (minutes: number) =>
  minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}`
/** The longest sheet of a course sets the scale its bars are drawn to. */
const longest = computed(() => Math.max(...(course.value?.weeks.map((w) => w.minutes) ?? [1])))
const toDrill = (w: Week) => w.items.filter((i) => i.kind === 'drill')
const toDo = (w: Week) => w.items.filter((i) => i.kind === 'scenario')

async function draft(week: Week | null): Promise<void> {
  if (!course.value || chosen.value.class_id === null) return
  busy.value = week?.week ?? 'all'
  failure.value = ''
  try {
    const made = await ask(
      api.POST('/api/v1/courses/{course_id}/drafts', {
        params: { path: { course_id: course.value.id } },
        body: { class_id: chosen.value.class_id, units: units.value, weeks: week ? [week.week] : null },
      }),
    )
    drafted.value = [...made.sheets, ...drafted.value]
  } catch (error) {
    failure.value = sentence(error)
  } finally {
    busy.value = null
  }
}
onMounted(async () => {
  try {
    const [all, taught] = await Promise.all([
      ask(api.GET('/api/v1/courses')),
      ask(api.GET('/api/v1/classes', { params: { query: { archived: false } } })),
    ])
    courses.value = all.courses
    classes.value = taught.classes
    if (!taught.classes.some((c) => c.id === chosen.value.class_id))
      chosen.value.class_id = taught.classes[0]?.id ?? null
  } catch (error) {
    failure.value = sentence(error)
  }
})
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Courses</h1>
      <span class="soft"
        >An order of skills over a term. Each week's sheet comes as a draft: change it, then issue.</span
      >
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <nav class="pick" aria-label="Courses">
      <button
        v-for="c in courses"
        :key="c.id"
        type="button"
        :aria-current="c.id === course?.id ? 'true' : undefined"
        @click="chosen.id = c.id"
      >
        <b>{{ c.title }}</b><small>{{ c.weeks.length }} sheets</small>
      </button>
    </nav>
    <RowsSkeleton v-if="!course && !failure" :cards="3" />
    <section v-if="course" class="card">
      <div class="lead">
        <p>{{ course.aim }}</p>
        <div v-if="classes?.length" class="line">
          <label class="field"
            ><span>Class</span
            ><select v-model="chosen.class_id" aria-label="Class" data-test="course-class">
              <option v-for="c in classes" :key="c.id" :value="c.id">
                {{ c.name }}{{ c.term ? `, ${c.term}` : '' }} ({{ c.size }})
              </option>
            </select></label
          >
          <el-button :loading="busy === 'all'" :disabled="busy !== null" data-test="draft-course" @click="draft(null)"
            >Draft all {{ course.weeks.length }}</el-button
          >
        </div>
        <p v-else-if="classes" class="soft">No class yet: <RouterLink to="/classes">add one first</RouterLink>.</p>
      </div>
      <p v-if="drafted.length" class="made" role="status">
        Drafted:
        <template v-for="(s, i) in drafted.slice(0, 4)" :key="s.id"
          >{{ i ? ', ' : '' }}<RouterLink :to="`/sheets/${s.id}`">{{ s.title }}</RouterLink></template
        ><template v-if="drafted.length > 4"> and {{ drafted.length - 4 }} more</template>.
      </p>
      <ol>
        <li v-for="w in course.weeks" :key="w.week">
          <span class="no" aria-hidden="true">{{ w.week }}</span>
          <div class="what">
            <h2>{{ w.title }}</h2>
            <small class="soft">{{ w.aim }}</small>
          </div>
          <ul>
            <li v-for="d in toDrill(w)" :key="d.title">{{ d.items }} × {{ d.title.toLowerCase() }}</li>
            <li v-for="s in toDo(w)" :key="s.title" class="call">
              <b>{{ s.title }}</b> <span class="soft">{{ s.machine }}</span><span
                v-if="s.level"
                class="level"
                :title="`Level ${s.level}`"
                >level {{ s.level }}</span
              >
            </li>
          </ul>
          <span class="time"
            ><i :style="{ width: `${(100 * w.minutes) / longest}%` }"></i><small>{{ hours(w.minutes) }}</small></span
          >
          <el-button
            size="small"
            :loading="busy === w.week"
            :disabled="busy !== null || chosen.class_id === null"
            :aria-label="`Draft week ${w.week}: ${w.title}`"
            :data-test="`draft-week-${w.week}`"
            @click="draft(w)"
            >Draft</el-button
          >
        </li>
      </ol>
    </section>
  </main>
</template>

<style scoped>
.pick {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 12px;
}
.pick button {
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 8px 14px;
  text-align: left;
  cursor: pointer;
  color: var(--ink);
  font-size: 15px;
}
.pick small {
  display: block;
  color: var(--ink-soft);
  font-size: 13px;
}
.pick button[aria-current] {
  border-color: var(--violet);
  box-shadow: inset 0 -3px 0 var(--violet);
}
.lead {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 24px;
  align-items: end;
  justify-content: space-between;
  margin-bottom: 8px;
}
.lead p {
  margin: 0;
  max-width: 62ch;
}
.line {
  display: flex;
  gap: 8px;
  align-items: end;
}
.line .field {
  width: 240px;
  margin: 0;
}
.made {
  background: var(--violet-soft);
  padding: 8px 12px;
  border-radius: 3px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
ol > li {
  display: grid;
  grid-template-columns: 40px minmax(200px, 4fr) minmax(220px, 6fr) 108px auto;
  gap: 14px;
  align-items: start;
  padding: 12px 0;
  border-top: 1px solid var(--line);
  position: relative;
}
.no {
  width: 32px;
  height: 32px;
  border-radius: 50%;
  background: var(--violet);
  color: var(--white);
  display: grid;
  place-items: center;
  font-weight: 700;
}
ol > li:not(:last-child)::before {
  content: '';
  position: absolute;
  left: 15px;
  top: 44px;
  bottom: -12px;
  width: 2px;
  background: var(--violet-line);
}
h2 {
  font-size: 16px;
  margin: 0;
  text-transform: none;
  letter-spacing: 0;
  color: var(--ink);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 14.5px;
}
ul li {
  padding: 1px 0;
}
.level {
  margin-left: 8px;
  font-size: 12.5px;
  color: var(--violet);
  white-space: nowrap;
}
.time {
  display: block;
  padding-top: 6px;
}
.time i {
  display: block;
  height: 6px;
  border-radius: 3px;
  background: var(--violet-line);
}
.time small {
  color: var(--ink-soft);
}
@media (max-width: 900px) {
  ol > li {
    grid-template-columns: 40px minmax(0, 1fr) auto;
  }
  ol > li > ul,
  .time {
    grid-column: 2 / -1;
  }
}
</style>
