<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { units } from '@/shared/kept'
import { localTime } from '@/shared/session'

const props = defineProps<{ row: Schemas['ScenarioRow'] }>()
const emit = defineEmits<{ changed: [] }>()
const versions = ref<Schemas['VersionRow'][]>([])
const failure = ref('')

async function load(): Promise<void> {
  try {
    versions.value = (
      await ask(
        api.GET('/api/v1/scenarios/{scenario_id}/versions', {
          params: { path: { scenario_id: props.row.id }, query: { units: units.value } },
        }),
      )
    ).versions
  } catch (error) {
    failure.value = sentence(error)
  }
}
async function again(version: number): Promise<void> {
  try {
    await ask(
      api.POST('/api/v1/scenarios/{scenario_id}/versions/{version}/again', {
        params: { path: { scenario_id: props.row.id, version } },
      }),
    )
    emit('changed')
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
}
watch([() => props.row.id, units], load, { immediate: true })
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <ol class="versions" data-test="versions">
    <li v-for="v in versions" :key="v.version">
      <b class="num">{{ v.version }}</b>
      <div>
        <ul>
          <li v-for="c in v.changes" :key="c">{{ c }}</li>
        </ul>
        <small class="soft"
          >{{ localTime(v.created_at) }} · {{ v.writer
          }}<template v-if="v.sheets">
            · on {{ v.sheets }} issued {{ v.sheets === 1 ? 'call' : 'calls' }}, which keep it</template
          ></small
        >
      </div>
      <el-button v-if="row.mine && v.version !== row.version" size="small" @click="again(v.version)"
        >Make it the newest</el-button
      >
    </li>
  </ol>
</template>

<style scoped>
.versions {
  list-style: none;
  margin: 0;
  padding: 4px 0 4px 30px;
}
.versions > li {
  display: grid;
  grid-template-columns: 30px 1fr auto;
  gap: 8px;
  align-items: start;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
.versions > li:first-child {
  border-top: 0;
}
ul {
  margin: 0;
  padding-left: 16px;
}
</style>
