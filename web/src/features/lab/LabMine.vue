<script setup lang="ts">
/** A student's own lab sessions, the one that runs first, and their skills so far. */
import { onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { localTime } from '@/shared/session'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'
import SkillsTable from './SkillsTable.vue'

const rows = ref<Schemas['LabMineRow'][] | null>(null)
const skills = ref<Schemas['RigSkillRow'][]>([])
const router = useRouter()
const { failure, attempt } = useFailing()
/** How often it is looked whether a session has begun, ms. */
const AGAIN = 15_000
let timer = 0
const look = () =>
  attempt(async () => {
    rows.value = (await ask(api.GET('/api/v1/lab/mine'))).sessions
    const runs = rows.value.filter((r) => !r.ended_at)
    if (runs.length === 1 && !router.options.history.state.back) return void router.replace(`/lab/${runs[0]!.id}`)
    skills.value = (await ask(api.GET('/api/v1/lab/mine/skills'))).rows
  })
onMounted(() => {
  void look()
  timer = window.setInterval(() => rows.value?.length === 0 && void look(), AGAIN)
})
onUnmounted(() => window.clearInterval(timer))
</script>

<template>
  <main class="page">
    <div class="page-head"><h1>Lab</h1></div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-else-if="!rows" :cards="2" />
    <p v-else-if="!rows.length" class="card">
      No session yet. When your instructor starts one at a rig, it shows up here.
    </p>
    <ul class="mine">
      <li v-for="r in rows ?? []" :key="r.id">
        <RouterLink :to="`/lab/${r.id}`" :class="['card', { runs: !r.ended_at }]" data-test="mine"
          ><b>{{ r.rig }}</b
          ><span>{{ r.title }}</span
          ><span class="soft">{{ r.ended_at ? localTime(r.began_at) : 'runs now' }}</span></RouterLink
        >
      </li>
    </ul>
    <SkillsTable v-if="skills.some((k) => k.level)" :rows="skills" />
  </main>
</template>

<style scoped>
.page {
  max-width: 760px;
}
.mine {
  list-style: none;
  margin: 0 0 18px;
  padding: 0;
  display: grid;
  gap: 8px;
}
.mine a {
  display: flex;
  gap: 4px 12px;
  flex-wrap: wrap;
  color: var(--ink);
  text-decoration: none;
  min-height: 54px;
  align-items: center;
}
.mine a.runs {
  border-color: var(--violet);
  box-shadow: inset 5px 0 var(--violet);
}
.mine .soft {
  margin-left: auto;
}
</style>
