<script setup lang="ts">
/** Where one is logged in, and the way out of there. */
import { onMounted, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { localTime } from '@/shared/session'

const places = ref<Schemas['PlaceRow'][]>([])
const failure = ref('')
async function run(work: () => Promise<Schemas['PlaceList']>): Promise<void> {
  failure.value = ''
  try {
    places.value = (await work()).places
  } catch (error) {
    failure.value = sentence(error)
  }
}
const end = (id: number) =>
  run(() => ask(api.DELETE('/api/v1/session/places/{place_id}', { params: { path: { place_id: id } } })))
const endOthers = () => run(() => ask(api.DELETE('/api/v1/session/places')))
onMounted(() => run(() => ask(api.GET('/api/v1/session/places'))))
</script>

<template>
  <section class="card" aria-labelledby="places">
    <h2 id="places">Where you are logged in</h2>
    <ul class="places">
      <li v-for="p in places" :key="p.id" data-test="place">
        <span
          ><b>{{ p.browser || 'A browser' }}</b> <small v-if="p.here" class="here">this one</small
          ><small class="soft"
            >from {{ p.address || 'this machine' }}, last used {{ localTime(p.seen_at) }}</small
          ></span
        ><el-button v-if="!p.here" size="small" @click="end(p.id)">Sign out</el-button>
      </li>
    </ul>
    <el-button v-if="places.length > 1" data-test="end-others" @click="endOthers">Sign out everywhere else</el-button>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  </section>
</template>

<style scoped>
.places {
  list-style: none;
  padding: 0;
  margin: 0 0 12px;
}
.places li {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  align-items: center;
  padding: 7px 0;
  border-bottom: 1px solid var(--edge);
}
.places small {
  display: block;
}
.places small.here {
  display: inline;
  margin-left: 6px;
  color: var(--violet);
  font-weight: 700;
}
</style>
