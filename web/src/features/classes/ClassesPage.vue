<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { kept } from '@/shared/kept'

const rows = ref<Schemas['ClassRow'][]>([])
const open = ref<Schemas['ClassRow'] | null>(null)
const draft = kept('class.draft', { name: '', list: '' })
const failure = ref('')
const names = computed(() => draft.value.list.split(/\r?\n/).map((n) => n.trim()).filter(Boolean))

async function load(): Promise<void> {
  rows.value = (await ask(api.GET('/api/v1/classes'))).classes
  if (!open.value && rows.value[0]) await show(rows.value[0].id)
}
async function show(id: number): Promise<void> {
  open.value = await ask(api.GET('/api/v1/classes/{class_id}', { params: { path: { class_id: id } } }))
}
async function add(): Promise<void> {
  failure.value = ''
  try {
    open.value = await ask(api.POST('/api/v1/classes', { body: { name: draft.value.name, apprentices: names.value } }))
    draft.value = { name: '', list: '' }
    await load()
  } catch (error) {
    failure.value = (error as Error).message
  }
}
onMounted(() => load().catch((error: Error) => (failure.value = error.message)))
</script>

<template>
  <main class="page">
    <div class="page-head"><h1>Classes</h1></div>
    <div class="two">
      <section class="card">
        <h2>Your classes</h2>
        <p v-if="!rows.length" class="soft">No class yet. Paste a list of names on the right.</p>
        <ul class="classes"><li v-for="c in rows" :key="c.id"><button :class="{ on: open?.id === c.id }" @click="show(c.id)">{{ c.name }}<span class="soft">{{ c.size }}</span></button></li></ul>
        <ol v-if="open" class="people"><li v-for="name in open.apprentices" :key="name">{{ name }}</li></ol>
      </section>
      <form class="card" @submit.prevent="add">
        <h2>New class</h2>
        <label class="field"><span>Name of the class</span><el-input v-model="draft.name" maxlength="80" /></label>
        <label class="field"><span>Apprentices, one name a line ({{ names.length }})</span><el-input v-model="draft.list" type="textarea" :rows="12" /></label>
        <p v-if="failure" class="error" role="alert">{{ failure }}</p>
        <el-button type="primary" native-type="submit" :disabled="!draft.name.trim() || !names.length">Add class</el-button>
      </form>
    </div>
  </main>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 16px; align-items: start; }
.classes, .people { margin: 0; padding: 0; list-style: none; }
.classes button { width: 100%; display: flex; justify-content: space-between; padding: 8px 10px; border: 1px solid transparent; border-radius: 3px; background: none; font-size: 15px; cursor: pointer; color: var(--ink); }
.classes button.on { background: var(--violet-soft); border-color: var(--violet); font-weight: 600; }
.people { columns: 2; margin-top: 12px; padding-left: 24px; list-style: decimal; line-height: 1.8; }
@media (max-width: 800px) { .two { grid-template-columns: 1fr; } }
</style>
