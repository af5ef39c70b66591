<script setup lang="ts">
/** One lab session: as its student carries it on, or as whoever runs the lab oversees it. */
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'
import { user } from '@/shared/session'
import LabDesk from './LabDesk.vue'
import LabStudent from './LabStudent.vue'
import { useSession } from './session'

const route = useRoute()
const id = Number(route.params.id)
const carried = useSession(id)
const { session, failure, lost } = carried
const student = computed(() => user.value?.role === 'apprentice')
/** Whoever runs the lab enters a session from paper with the fields its student has. */
const paper = ref(false)
</script>

<template>
  <main class="lab-page">
    <div v-if="!session && failure" class="page">
      <h1>Lab session</h1>
      <p class="error" role="alert">{{ failure }}</p>
    </div>
    <RowsSkeleton v-else-if="!session" :cards="2" />
    <LabStudent v-else-if="student" :carried="carried" />
    <template v-else>
      <p v-if="lost" class="page error" role="alert">{{ failure }}</p>
      <LabDesk :carried="carried" :paper="paper" @paper="paper = !paper" />
      <LabStudent v-if="paper" :carried="carried" />
    </template>
  </main>
</template>
