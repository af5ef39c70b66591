<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** Who moves when something is marked again. */
defineProps<{ moves: Schemas['MoveRow'][]; done: boolean }>()
</script>

<template>
  <p v-if="!moves.length" data-test="moves">{{ done ? 'Nobody moved.' : 'Nobody would move.' }}</p>
  <table v-else class="list" data-test="moves">
    <thead>
      <tr>
        <th>Apprentice</th>
        <th class="right">Before</th>
        <th class="right">After</th>
        <th>Questions</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="m in moves" :key="m.code">
        <td>
          {{ m.name }} <span class="num soft">{{ m.code }}</span>
        </td>
        <td class="right num">{{ m.before === null ? 'not marked' : `${m.before}/${m.before_possible}` }}</td>
        <td class="right num">
          <b>{{ m.after }}/{{ m.after_possible }}</b>
        </td>
        <td class="soft">
          {{
            m.changes.length > 5
              ? `${m.changes.length} questions`
              : m.changes.map((c) => c.question.replace(/_/g, ' ')).join(', ')
          }}
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.list td {
  padding: 5px 8px;
  font-size: 14px;
}
</style>
