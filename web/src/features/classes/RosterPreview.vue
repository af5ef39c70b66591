<script setup lang="ts">
/** Who will be added, before anybody is: each column can be called what it is, each line that is left out says why. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

type Reply = Schemas['RosterReply']
type Role = Reply['columns'][number]['role']
const props = defineProps<{ read: Reply }>()
const emit = defineEmits<{ columns: [roles: Role[]]; header: [named: boolean] }>()
const ROLES: Record<Role, string> = {
  name: 'name',
  first: 'first name',
  last: 'last name',
  last_first: 'Last, First',
  number: 'number',
  group: 'group',
  email: 'e-mail, not saved',
  skip: 'not used',
}
const left = computed(() => props.read.rows.filter((row) => row.problem).length)
function call(i: number, event: Event): void {
  const roles = props.read.columns.map((column) => column.role)
  roles[i] = (event.target as HTMLSelectElement).value as Role
  emit('columns', roles)
}
</script>

<template>
  <div class="preview" data-test="roster">
    <p class="count" role="status">
      <span
        ><b>{{ read.people.length }} to add</b><template v-if="left">, {{ left }} skipped</template></span
      >
      <label
        ><input
          type="checkbox"
          :checked="read.header"
          data-test="header"
          @change="emit('header', ($event.target as HTMLInputElement).checked)"
        />
        first line is a header</label
      >
    </p>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th><span class="gone">Line</span></th>
            <th>Adds</th>
            <th v-for="(column, i) in read.columns" :key="i">
              <select :value="column.role" :aria-label="`Column ${i + 1} ${column.head}`" @change="call(i, $event)">
                <option v-for="(text, role) in ROLES" :key="role" :value="role">{{ text }}</option>
              </select>
              <small v-if="column.head" class="soft">{{ column.head }}</small>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in read.rows" :key="row.line" :class="{ out: row.problem }">
            <td class="num soft">{{ row.line }}</td>
            <td>
              <template v-if="row.problem">skipped: {{ row.problem }}</template
              ><template v-else
                ><b>{{ row.name }}</b
                ><template v-if="row.number">, {{ row.number }}</template
                ><template v-if="row.group">, group {{ row.group }}</template></template
              >
            </td>
            <td
              v-for="(column, i) in read.columns"
              :key="i"
              :class="{ unused: ['skip', 'email'].includes(column.role) }"
            >
              {{ row.cells[i] ?? '' }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.preview {
  margin-bottom: 10px;
}
.count {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  margin: 0 0 6px;
}
.count label {
  font-size: 14px;
  min-height: 24px;
}
.scroll {
  overflow: auto;
  max-height: 420px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14px;
}
th,
td {
  text-align: left;
  padding: 4px 8px;
  border-bottom: 1px solid var(--line);
  vertical-align: top;
}
th {
  background: var(--violet-soft);
  position: sticky;
  top: 0;
}
th select {
  display: block;
  max-width: 130px;
  min-height: 26px;
}
.out td {
  color: var(--amber);
}
td {
  white-space: nowrap;
}
.unused {
  color: var(--ink-soft);
  text-decoration: line-through;
}
.gone {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
</style>
