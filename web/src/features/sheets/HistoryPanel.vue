<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { localTime } from '@/shared/session'

const props = defineProps<{ sheetId: number }>()
const entries = ref<Schemas['AuditRow'][]>([])
const { failure, attempt } = useFailing()
/** Answers typed in are the bulk; what an instructor looks for is mostly the rest. */
const typed = ref(false)
const shown = computed(() => entries.value.filter((e) => typed.value || e.action !== 'answers'))
const brief = (value: unknown): string => {
  if (value === null || value === undefined) return ''
  if (typeof value !== 'object') return String(value)
  const parts = Object.entries(value as Record<string, unknown>).filter(
    ([, v]) =>
      v !== null &&
      !(Array.isArray(v) && !v.length) &&
      !(typeof v === 'object' && !Array.isArray(v) && !Object.keys(v as object).length),
  )
  return (
    parts
      .slice(0, 4)
      .map(
        ([k, v]) =>
          `${k.replace(/_/g, ' ')} ${typeof v === 'object' ? (Array.isArray(v) ? v.length : JSON.stringify(v)) : String(v)}`,
      )
      .join(', ') + (parts.length > 4 ? ` and ${parts.length - 4} more` : '')
  )
}
onMounted(() =>
  attempt(async () => {
    entries.value = (
      await ask(api.GET('/api/v1/sheets/{sheet_id}/audit', { params: { path: { sheet_id: props.sheetId } } }))
    ).entries
  }),
)
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <section class="card">
    <el-checkbox v-model="typed" data-test="audit-typed"
      >Show typed answers ({{ entries.length - entries.filter((e) => e.action !== 'answers').length }})</el-checkbox
    >
    <p v-if="!shown.length" class="soft">Only answers so far.</p>
    <table v-else class="list" data-test="audit">
      <thead>
        <tr>
          <th class="when">When</th>
          <th class="who">Who</th>
          <th class="who">What</th>
          <th class="paper">Paper</th>
          <th>Before</th>
          <th>After</th>
          <th>Why</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="e in shown" :key="e.id">
          <td class="soft nowrap">{{ localTime(e.at) }}</td>
          <td>{{ e.writer }}</td>
          <td>
            {{ e.action }}<small v-if="e.position" class="soft"> call {{ e.position }}</small
            ><small v-if="e.question_id" class="soft">, {{ e.question_id.replace(/_/g, ' ') }}</small>
          </td>
          <td>
            <template v-if="e.code"
              >{{ e.name }} <span class="num">{{ e.code }}</span></template
            >
          </td>
          <td>{{ brief(e.before) }}</td>
          <td>{{ brief(e.after) }}</td>
          <td>{{ e.reason }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.list td {
  font-size: 13.5px;
  padding: 6px 8px;
}
.nowrap {
  white-space: nowrap;
}
.when {
  width: 150px;
}
.who {
  width: 150px;
}
.paper {
  width: 190px;
}
</style>
