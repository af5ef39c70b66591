<script setup lang="ts">
/** A rig entered by name, place and machine; its channels come from a register map or later. */
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import FindSelect from '@/shared/FindSelect.vue'
import { vFocus } from '@/shared/focus'
import { kept } from '@/shared/kept'
import FileButton from '@/shared/FileButton.vue'

const emit = defineEmits<{ close: []; made: [id: number] }>()
const typed = kept('rigs.entering', { name: '', place: '', machine: '', address: '', map: '' })
const machines = ref<Schemas['CatalogueReply']['machines']>([])
const rows = computed(() =>
  machines.value.map((m) => ({ id: m.id, label: `${m.name} · ${m.refrigerant}`, also: m.also })),
)
const { failure, busy, attempt } = useFailing()
async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  typed.value.map = (await input.files?.[0]?.text()) ?? ''
}
const save = () =>
  attempt(async () => {
    const { map, ...rig } = typed.value
    const made = await ask(api.POST('/api/v1/rigs', { body: { rig: { schema: 1, ...rig } } }))
    const id = made.row.id
    if (map) await ask(api.PUT('/api/v1/rigs/{rig_id}/map', { params: { path: { rig_id: id } }, body: { text: map } }))
    typed.value = { name: '', place: '', machine: '', address: '', map: '' }
    emit('made', id)
  })
onMounted(() =>
  attempt(async () => {
    machines.value = (await ask(api.GET('/api/v1/catalogue'))).machines
  }),
)
</script>

<template>
  <form class="card" aria-label="A new rig" @submit.prevent="save">
    <h2>A new rig</h2>
    <div class="fields">
      <label class="field"><span>Name</span><input v-model="typed.name" v-focus maxlength="80" required /></label>
      <label class="field"><span>Place</span><input v-model="typed.place" maxlength="80" placeholder="Bay 3" /></label>
      <div class="field">
        <span id="rig-machine">Machine</span
        ><FindSelect
          v-model="typed.machine"
          :rows="rows"
          aria-label="Machine"
          placeholder="Which machine is it?"
          data-test="rig-machine"
        />
      </div>
      <label class="field"
        ><span>Logger's address <small class="soft">Modbus TCP, if any</small></span
        ><input v-model="typed.address" placeholder="192.0.2.10:502" maxlength="120"
      /></label>
      <label class="field"
        ><span>Register map <small class="soft">CSV; can follow later</small></span
        ><FileButton accept=".csv,text/csv" shows aria-label="Register map" @change="take"
          >Choose the map</FileButton
        ></label
      >
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p class="soft">
      Pressures, hot discharge lines and live parts stay dangerous on a rig: the manufacturer's instructions and your
      shop's rules come first.
    </p>
    <el-button type="primary" native-type="submit" :loading="busy" :disabled="!typed.name || !typed.machine"
      >Save rig</el-button
    >
    <el-button @click="emit('close')">Cancel</el-button>
  </form>
</template>

<style scoped>
form.card {
  margin-bottom: 12px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 10px 16px;
}
</style>
