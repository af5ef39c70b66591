<script setup lang="ts">
import { ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { askFirst, offerUndo } from '@/shared/asking'
import { clockTime } from '@/shared/session'

/** The apprentices of a class: group and number, log-in, who left; what is kept of one and how it is forgotten. */
type Language = Schemas['PersonRow']['language']
const LANGUAGES: Record<Language, string> = { en: 'English', es: 'Español' }
const props = defineProps<{ people: Schemas['PersonRow'][]; classId: number; classes: Schemas['ClassRow'][] }>()
const emit = defineEmits<{ changed: [row: Schemas['ClassRow']]; code: [id: number] }>()
const editing = ref<number | null>(null)
const form = ref({ name: '', number: '', group: '', gone: false, class_id: 0, language: 'en' as Language })
const failure = ref('')
const path = (id: number) => ({ params: { path: { apprentice_id: id } } })

function edit(p: Schemas['PersonRow']): void {
  editing.value = editing.value === p.id ? null : p.id
  form.value = {
    name: p.name,
    number: p.number,
    group: p.group,
    gone: p.gone,
    class_id: props.classId,
    language: p.language,
  }
}
async function run(work: () => Promise<Schemas['ClassRow']>): Promise<void> {
  failure.value = ''
  try {
    emit('changed', await work())
    editing.value = null
  } catch (error) {
    failure.value = sentence(error)
  }
}
const keep = (id: number) =>
  run(async () => {
    const person = form.value
    const row = await ask(api.PUT('/api/v1/apprentices/{apprentice_id}', { ...path(id), body: person }))
    if (person.class_id !== props.classId) {
      const [from, now] = [props.classId, props.classes.find((c) => c.id === person.class_id)?.name]
      offerUndo(`${person.name} is in ${now} now; papers and marks stay on record.`, async () => {
        await ask(api.PUT('/api/v1/apprentices/{apprentice_id}', { ...path(id), body: { ...person, class_id: from } }))
        emit('changed', await ask(api.GET('/api/v1/classes/{class_id}', { params: { path: { class_id: from } } })))
      })
    }
    return row
  })
async function giveCode(p: Schemas['PersonRow']): Promise<void> {
  const sure =
    !p.login ||
    (await askFirst({
      title: `A one-time code for ${p.name}?`,
      lines: ['The password they have stops working now.', 'The code lets them choose a new one.'],
      yes: 'Make the code',
    }))
  if (sure) {
    editing.value = null
    emit('code', p.id)
  }
}
const setErasing = (id: number, erasing: boolean) =>
  ask(api.PUT('/api/v1/apprentices/{apprentice_id}/erasing', { ...path(id), body: { erasing } }))
const erase = (p: Schemas['PersonRow']) =>
  run(async () => {
    const row = await setErasing(p.id, true)
    offerUndo(`${p.name} is erased in ten minutes, with papers, answers, marks and log-in.`, async () => {
      emit('changed', await setErasing(p.id, false))
    })
    return row
  })
const spare = (id: number) => run(() => setErasing(id, false))
const eraseNow = (id: number) => run(() => ask(api.DELETE('/api/v1/apprentices/{apprentice_id}', path(id))))
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <table class="list people rows">
    <thead>
      <tr>
        <th>Name</th>
        <th>Number</th>
        <th>Group</th>
        <th>Log-in</th>
        <th><span class="off">Change</span></th>
      </tr>
    </thead>
    <tbody>
      <template v-for="p in people" :key="p.id">
        <tr :class="{ gone: p.gone || p.erase_at }">
          <td class="name">
            <RouterLink :to="`/apprentices/${p.id}`">{{ p.name }}</RouterLink><small v-if="p.gone" class="soft">
              left</small
            ><small v-if="p.language !== 'en'" class="soft"> {{ LANGUAGES[p.language] }}</small
            ><small v-if="p.erase_at" class="error"> erased at {{ clockTime(p.erase_at) }}</small>
          </td>
          <td class="num">{{ p.number }}</td>
          <td>{{ p.group }}</td>
          <td>{{ p.login ?? '' }}</td>
          <td class="right">
            <template v-if="p.erase_at"
              ><button class="edit" data-test="spare" @click="spare(p.id)">Undo</button
              ><button class="edit" @click="eraseNow(p.id)">Erase now</button></template
            ><button v-else class="edit" :aria-expanded="editing === p.id" @click="edit(p)">Change</button>
          </td>
        </tr>
        <tr v-if="editing === p.id">
          <td colspan="5">
            <form class="form" @submit.prevent="keep(p.id)">
              <label><span>Name</span><input v-model="form.name" maxlength="80" /></label
              ><label><span>Number</span><input v-model="form.number" maxlength="30" /></label
              ><label><span>Group</span><input v-model="form.group" maxlength="40" /></label>
              <label
                ><span>Class</span
                ><select v-model="form.class_id" data-test="move-to">
                  <option v-for="c in classes" :key="c.id" :value="c.id">{{ c.name }}</option>
                </select></label
              >
              <label
                ><span>Language</span
                ><select v-model="form.language" data-test="language">
                  <option v-for="(name, id) in LANGUAGES" :key="id" :value="id">{{ name }}</option>
                </select></label
              >
              <label class="check"><input v-model="form.gone" type="checkbox" /> left the class</label>
              <span class="hands"
                ><el-button size="small" type="primary" native-type="submit">Save</el-button
                ><el-button size="small" data-test="code-for" @click="giveCode(p)">{{
                  p.login ? 'Code for a new password' : 'Give a log-in'
                }}</el-button
                ><a :href="`/api/v1/apprentices/${p.id}/data`">All data</a>
                <el-button size="small" link type="danger" @click="erase(p)">Erase</el-button
                ><small class="soft">gone for good after ten minutes</small></span
              >
            </form>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
.list td {
  padding: 5px 10px;
}
.gone {
  opacity: 0.75;
}
.edit {
  border: 0;
  background: none;
  color: var(--violet);
  cursor: pointer;
  min-height: 24px;
  font-size: 14px;
}
.form {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px 12px;
  align-items: end;
}
.form span {
  display: block;
  font-size: 12.5px;
  color: var(--ink-soft);
}
.form select,
.form input:not([type='checkbox']) {
  width: 100%;
}
.check {
  font-size: 14px;
}
.hands {
  display: flex !important;
  gap: 12px;
  align-items: center;
  grid-column: 1 / -1;
}
</style>
