<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { localTime } from '@/shared/session'
import SkillsTable from '@/features/lab/SkillsTable.vue'
import { units } from '@/shared/kept'
import StepBars from './StepBars.vue'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

const id = Number(useRoute().params.id)
const told = ref<Schemas['PersonPicture'] | null>(null)
const rigSkills = ref<Schemas['RigSkillRow'][]>([])
const atRigs = computed(() => rigSkills.value.some((k) => k.level))
const { failure, attempt } = useFailing()
const steps = computed(() => told.value?.steps ?? [])
const skills = computed(() => told.value?.skills ?? [])
const papers = computed(() => told.value?.papers ?? [])
const next = computed(() => told.value?.next)
onMounted(() =>
  attempt(async () => {
    told.value = await ask(
      api.GET('/api/v1/apprentices/{apprentice_id}/results', { params: { path: { apprentice_id: id } } }),
    )
    const path = { params: { path: { apprentice_id: id } } }
    rigSkills.value = (await ask(api.GET('/api/v1/apprentices/{apprentice_id}/skills', path))).rows
  }),
)
</script>

<template>
  <main class="page">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-else-if="!told" :cards="3" />
    <template v-if="told">
      <div class="page-head">
        <div>
          <h1>{{ told.name }}</h1>
          <span class="soft"
            ><RouterLink :to="`/classes/${told.class_id}/results`">{{ told.class_name }}</RouterLink></span
          >
        </div>
      </div>
      <SkillsTable v-if="atRigs" :rows="rigSkills" class="rig-skills">
        <span class="files"
          ><a class="as-button" :href="`/api/v1/apprentices/${id}/skills.pdf?units=${units}`" target="_blank">Print</a>
          <a class="as-button" :href="`/api/v1/apprentices/${id}/skills.csv`">CSV</a></span
        >
      </SkillsTable>
      <div class="grid">
        <section class="card">
          <h2>Where marks are lost</h2>
          <p v-if="!steps.length" class="soft">Nothing marked yet.</p>
          <StepBars :steps="steps" />
        </section>
        <div class="side">
          <section v-if="next" class="card next">
            <h2>Next call</h2>
            <p>
              {{ next.reason }} <b>Level {{ next.level }}.</b>
            </p>
            <p v-if="next.scenarios.length" class="soft">Nearest in the library:</p>
            <ul>
              <li v-for="s in next.scenarios" :key="s.id">
                <RouterLink :to="`/bench?scenario=${s.id}`">{{ s.title }}</RouterLink>
                <span class="soft">level {{ s.level }}</span>
              </li>
            </ul>
          </section>
          <section class="card">
            <h2>Papers</h2>
            <p v-if="!papers.length" class="soft">None yet.</p>
            <table class="list">
              <tbody>
                <tr v-for="p in papers" :key="p.code">
                  <td>
                    {{ p.title }}<small v-if="p.attempt > 1" class="soft"> attempt {{ p.attempt }}</small>
                  </td>
                  <td class="soft">{{ localTime(p.at) }}</td>
                  <td><RouterLink :to="`/feedback/${p.code}`">Feedback</RouterLink></td>
                </tr>
              </tbody>
            </table>
          </section>
          <section v-if="skills.length" class="card">
            <h2>Skills, weakest first</h2>
            <table class="list">
              <tbody>
                <tr v-for="s in skills" :key="s.skill">
                  <td>{{ s.name }}</td>
                  <td class="right num">{{ s.share === null ? '–' : `${Math.round(s.share * 100)} %` }}</td>
                </tr>
              </tbody>
            </table>
          </section>
        </div>
      </div>
    </template>
  </main>
</template>

<style scoped>
.rig-skills {
  margin-bottom: 16px;
}
.files {
  display: flex;
  gap: 8px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  align-items: start;
}
.side {
  display: grid;
  gap: 14px;
}
.next {
  border-left: 4px solid var(--violet);
}
.next ul {
  margin: 0;
  padding-left: 18px;
}
.list td {
  padding: 4px 8px;
  font-size: 14px;
}
@media (max-width: 800px) {
  .grid {
    grid-template-columns: 1fr;
  }
}
</style>
