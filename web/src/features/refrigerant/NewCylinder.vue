<script setup lang="ts">
/** A cylinder as it is stamped. */
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { vFocus } from '@/shared/focus'
import { kept, units } from '@/shared/kept'

defineProps<{ refrigerants: string[] }>()
const emit = defineEmits<{ made: [log: Schemas['LogReply']]; close: [] }>()
const EMPTY = {
  name: '',
  kind: 'recovery' as 'new' | 'recovery',
  refrigerant: '',
  tare: '',
  water: '',
  gross: '',
  owner: '',
  retest_on: '',
}
const form = kept('refrigerant.cylinder', { ...EMPTY })
const { failure, busy, attempt } = useFailing()
const unit = computed(() => (units.value === 'us' ? 'lb' : 'kg'))
const save = () =>
  attempt(async () => {
    const body = { ...form.value, retest_on: form.value.retest_on || null, units: units.value }
    emit('made', await ask(api.POST('/api/v1/cylinders', { body })))
    form.value = { ...EMPTY }
    emit('close')
  })
</script>

<template>
  <form class="card" aria-label="A new cylinder" @submit.prevent="save">
    <h2>A cylinder, as it is stamped</h2>
    <div class="fields">
      <label class="field"><span>Name or tag</span><input v-model="form.name" v-focus maxlength="60" required /></label>
      <label class="field"
        ><span>Kind</span
        ><select v-model="form.kind">
          <option value="recovery">recovery, refillable</option>
          <option value="new">new refrigerant, never refilled</option>
        </select></label
      >
      <label class="field"
        ><span>Refrigerant</span
        ><select v-model="form.refrigerant">
          <option value="">{{ form.kind === 'recovery' ? 'empty, none yet' : 'choose' }}</option>
          <option v-for="r in refrigerants" :key="r">{{ r }}</option>
        </select></label
      >
      <label class="field"
        ><span>Tare (TW), {{ unit }}</span
        ><input v-model="form.tare" maxlength="40" required
      /></label>
      <label class="field"
        ><span>Water capacity (WC), {{ unit }}</span
        ><input v-model="form.water" maxlength="40" required
      /></label>
      <label class="field"
        ><span>Weighs now, {{ unit }}</span
        ><input v-model="form.gross" maxlength="40" placeholder="empty: its tare"
      /></label>
      <label class="field"><span>Owner</span><input v-model="form.owner" maxlength="80" /></label>
      <label class="field"><span>Test due by</span><input v-model="form.retest_on" type="date" /></label>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <el-button type="primary" native-type="submit" :loading="busy" data-test="save-cylinder">Save cylinder</el-button>
    <el-button @click="emit('close')">Cancel</el-button>
  </form>
</template>

<style scoped>
form {
  margin-bottom: 12px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 0 16px;
}
</style>
