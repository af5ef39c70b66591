<script setup lang="ts">
/** The log: what moved by the log, the cylinder and the scale; what does not agree waits for an explanation. */
import { ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { units } from '@/shared/kept'
import { clockTime, localTime } from '@/shared/session'

defineProps<{ moves: Schemas['LogRow'][]; teaches: boolean; days: boolean }>()
const emit = defineEmits<{ changed: [log: Schemas['LogReply']] }>()
const { failure, busy, attempt } = useFailing()
const words = ref<Record<number, string>>({})
const explain = (id: number) =>
  attempt(async () => {
    const body = { explained: words.value[id] ?? '', units: units.value }
    const at = { params: { path: { move_id: id } } }
    emit('changed', await ask(api.PUT('/api/v1/refrigerant/moves/{move_id}/explained', { ...at, body })))
    delete words.value[id]
  })
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <table v-if="moves.length" class="list rows">
    <thead>
      <tr>
        <th>Time</th>
        <th>What</th>
        <th class="right">Log</th>
        <th class="right">Cylinder</th>
        <th class="right">Scale</th>
        <th>Who, why</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="m in moves" :key="m.id">
        <tr data-test="move">
          <td class="soft">{{ days ? localTime(m.at) : clockTime(m.at) }}</td>
          <td>
            <b>{{ m.cylinder }}</b> {{ m.text }} <small class="soft gas">{{ m.refrigerant }}</small>
          </td>
          <td class="right num" data-label="log">{{ m.log }}</td>
          <td class="right num" data-label="cylinder">{{ m.weighed }}</td>
          <td class="right num" data-label="scale">{{ m.scale || '–' }}</td>
          <td>
            {{ m.person }} <span class="soft">{{ m.why }}</span>
          </td>
        </tr>
        <tr v-if="m.differences.length" :class="['adrift', { open: !m.explained }]" data-test="difference">
          <td />
          <td colspan="5">
            <p v-for="d in m.differences" :key="d.text">
              <b>{{ d.text }}.</b> <span class="soft">Likely: {{ d.causes.join('; ') }}.</span>
            </p>
            <p v-if="m.explained">
              Explained: {{ m.explained }} <small class="soft">{{ m.explained_by }}</small>
            </p>
            <form v-else-if="teaches" class="say" @submit.prevent="explain(m.id)">
              <input
                v-model="words[m.id]"
                :list="`causes-${m.id}`"
                maxlength="300"
                placeholder="What it was"
                :aria-label="`Explain ${m.cylinder} ${m.text}`"
                data-test="explain"
              /><datalist :id="`causes-${m.id}`">
                <option v-for="c in m.differences.flatMap((d) => d.causes)" :key="c" :value="c" /></datalist
              ><el-button
                size="small"
                native-type="submit"
                :loading="busy"
                :disabled="(words[m.id] ?? '').trim().length < 3"
                >Explain</el-button
              >
            </form>
            <p v-else class="soft">An instructor has to explain it before the day closes.</p>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-else class="soft">Nothing was moved on these days.</p>
</template>

<style scoped>
.adrift td {
  padding-top: 2px;
}
.adrift p {
  margin: 0 0 3px;
}
.open td:last-child {
  border-left: 5px solid var(--amber);
  background: var(--amber-tint);
}
.gas {
  white-space: nowrap;
}
@media (max-width: 760px) {
  td[data-label]::before {
    content: attr(data-label) ' ';
    font-family: var(--el-font-family);
    color: var(--ink-soft);
  }
}
.say {
  display: flex;
  gap: 8px;
}
.say input {
  flex: 1;
  max-width: 460px;
}
</style>
