<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, named, type Schemas, sentence } from '@/api/client'
import type { BenchState } from '@/shared/planted'
import { CONDENSERS, METERING } from '@/shared/words'
import { kept, units } from '@/shared/kept'
import { APPLICATIONS, KNOWN, LABELS, PLATE, WEATHER, bodyOf, emptyForm, fitting, unitOf } from './form'
import ReportPicture from './ReportPicture.vue'

const forms = { us: kept('plate.us', emptyForm()), si: kept('plate.si', emptyForm()) }
const form = computed(() => forms[units.value].value)
const tuned = ref<Schemas['TunedReply'] | null>(null)
const own = ref<Schemas['OwnRow'][]>([])
const refrigerants = ref<string[]>(['R-410A'])
const failure = ref('')
const busy = ref(false)
const shown = ref('')
const router = useRouter()
const weather = computed(() => fitting(WEATHER, form.value))
const benchState = kept<Partial<BenchState>>('bench.many', {})

async function run(keep: boolean): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    const body = bodyOf(form.value, units.value)
    if (keep) {
      own.value = (await ask(api.POST('/api/v1/machines', { body }))).machines
      tuned.value = null
      forms[units.value].value = emptyForm()
    } else tuned.value = await ask(api.POST('/api/v1/tune', { body }))
  } catch (error) {
    failure.value = named(error, LABELS)
  } finally {
    busy.value = false
  }
}
async function remove(id: string): Promise<void> {
  try {
    own.value = (
      await ask(
        api.DELETE('/api/v1/machines/{machine_id}', {
          params: { path: { machine_id: id }, query: { units: units.value } },
        }),
      )
    ).machines
  } catch (error) {
    failure.value = sentence(error)
  }
}
async function toBench(id: string): Promise<void> {
  benchState.value = { ...benchState.value, machine: id, faults: [], weather: {} }
  await router.push('/bench')
}
watch(
  units,
  () => {
    tuned.value = null
    void ask(api.GET('/api/v1/machines', { params: { query: { units: units.value } } }))
      .then((found) => (own.value = found.machines))
      .catch((error: Error) => (failure.value = error.message))
  },
  { immediate: true },
)
void ask(api.GET('/api/v1/catalogue'))
  .then((found) => (refrigerants.value = [...new Set(found.machines.map((m) => m.refrigerant))].sort()))
  .catch(() => undefined)
</script>

<template>
  <main class="machines">
    <form class="card plate" @submit.prevent="run(false)">
      <h2>Plate</h2>
      <label class="name"
        ><span>Name</span
        ><input v-model="form.name" maxlength="80" placeholder="What the class calls it" data-test="name"
      /></label>
      <div class="grid">
        <label
          ><span>Refrigerant</span
          ><select v-model="form.refrigerant">
            <option v-for="r in refrigerants" :key="r">{{ r }}</option>
          </select></label
        >
        <label
          ><span>Metering device</span
          ><select v-model="form.metering" data-test="metering">
            <option v-for="(text, id) in METERING" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label
          ><span>Kind</span
          ><select v-model="form.application">
            <option v-for="(text, id) in APPLICATIONS" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label
          ><span>Condenser</span
          ><select v-model="form.condenser">
            <option v-for="(text, id) in CONDENSERS" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label v-for="f in PLATE" :key="f.id"
          ><span>{{ f.label }}</span
          ><span class="entry"
            ><input v-model="form[f.id]" inputmode="decimal" :data-test="f.id" /><i>{{ unitOf(f, units) }}</i></span
          ></label
        >
      </div>
      <h2>Known ratings <small>leave blank what you do not know</small></h2>
      <div class="grid">
        <label v-for="f in KNOWN" :key="f.id"
          ><span>{{ f.label }}</span
          ><span class="entry"
            ><input v-model="form[f.id]" inputmode="decimal" :data-test="f.id" /><i>{{ unitOf(f, units) }}</i></span
          ></label
        >
      </div>
      <h2>Read in this weather <small>blank: the rating point</small></h2>
      <div class="grid">
        <label v-for="f in weather" :key="f.id"
          ><span>{{ f.label }}</span
          ><span class="entry"
            ><input v-model="form[f.id]" inputmode="decimal" :data-test="f.id" /><i>{{ unitOf(f, units) }}</i></span
          ></label
        >
      </div>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <div class="go">
        <el-button
          type="primary"
          native-type="submit"
          :loading="busy"
          :disabled="!(form.name ?? '').trim() || !(form.capacity_btuh ?? '').trim()"
          data-test="tune"
          >Match</el-button
        >
        <el-button v-if="tuned" :loading="busy" data-test="keep" @click="run(true)">Save this machine</el-button>
      </div>
    </form>
    <section class="found">
      <div v-if="tuned" class="card">
        <h2>What was fitted</h2>
        <ReportPicture :tuned="tuned" />
      </div>
      <div v-else class="empty">
        <h1>A machine of your own</h1>
        <p>
          Enter the nameplate and any known ratings. Wolfsbane finds a machine that matches them, says how closely, and
          names figures that contradict each other.
        </p>
      </div>
      <div v-if="own.length" class="card">
        <h2>Your machines</h2>
        <table class="list">
          <tbody>
            <template v-for="m in own" :key="m.id">
              <tr>
                <td>
                  <b>{{ m.name }}</b> <span class="soft">{{ m.tuned.plate.refrigerant }}, {{ m.tuned.size }}</span>
                </td>
                <td>{{ m.tuned.met ? 'met' : 'not all met' }}</td>
                <td class="right acts">
                  <el-button size="small" @click="shown = shown === m.id ? '' : m.id">Report</el-button
                  ><el-button size="small" type="primary" @click="toBench(m.id)">On the bench</el-button
                  ><el-button size="small" @click="remove(m.id)">Delete</el-button>
                </td>
              </tr>
              <tr v-if="shown === m.id">
                <td colspan="3"><ReportPicture :tuned="m.tuned" /></td>
              </tr>
            </template>
          </tbody>
        </table>
      </div>
    </section>
  </main>
</template>

<style scoped>
.machines {
  display: grid;
  grid-template-columns: 560px minmax(0, 1fr);
  gap: 14px;
  padding: 14px;
  max-width: 1400px;
  margin: 0 auto;
  align-items: start;
}
.plate h2:not(:first-child) {
  margin-top: 14px;
}
h2 small {
  text-transform: none;
  letter-spacing: 0;
  color: var(--ink-soft);
  font-weight: 400;
  margin-left: 6px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 18px;
}
label {
  display: grid;
  grid-template-columns: 118px 1fr;
  align-items: center;
  font-size: 13.5px;
}
.name {
  margin-bottom: 6px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 5px;
}
.entry i {
  font-style: normal;
  font-size: 12px;
  color: var(--ink-soft);
  width: 38px;
}
input,
select {
  width: 100%;
  min-width: 0;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 3px 6px;
  background: var(--card);
  color: var(--ink);
  font-size: 14px;
}
select {
  font-size: 12.5px;
  padding: 4px 2px;
}
.found {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
.acts {
  white-space: nowrap;
}
.acts :deep(.el-button) {
  margin-left: 6px;
}
.go {
  margin-top: 12px;
  display: flex;
  gap: 8px;
}
@media (max-width: 1000px) {
  .machines {
    grid-template-columns: 1fr;
  }
}
</style>
