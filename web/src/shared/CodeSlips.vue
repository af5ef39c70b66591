<script setup lang="ts">
/** One-time codes to hand over: on screen with their links, and as slips to cut out. They are shown this once. */
import { computed, ref } from 'vue'
import { user } from './session'

export interface Slip {
  name: string
  login: string
  code: string
}
const props = defineProps<{ slips: readonly Slip[]; days: number }>()
defineEmits<{ close: [] }>()
const door = `${window.location.origin}/welcome`
const links = computed(() => props.slips.map((s) => ({ ...s, link: `${door}#${s.code}` })))
const copied = ref('')
async function copy(text: string, what: string): Promise<void> {
  await navigator.clipboard.writeText(text)
  copied.value = what
}
function print(): void {
  document.body.classList.add('one-card')
  window.print()
  document.body.classList.remove('one-card')
}
</script>

<template>
  <section class="card slips" aria-label="One-time codes" data-test="slips">
    <div class="head">
      <h2>{{ slips.length === 1 ? 'One-time code' : `${slips.length} one-time codes` }}</h2>
      <el-button size="small" @click="$emit('close')">Done</el-button>
    </div>
    <p>
      Each lets its owner in once, within {{ days }} days, to choose a password. <b>They are shown this once:</b> print
      them or hand over the link now.
    </p>
    <table class="list rows">
      <thead>
        <tr>
          <th>Name</th>
          <th>Log-in</th>
          <th>Code</th>
          <th><span class="off">Link</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in links" :key="s.login">
          <td>{{ s.name }}</td>
          <td class="num">{{ s.login }}</td>
          <td class="num code" data-test="code">{{ s.code }}</td>
          <td class="right"><el-button size="small" @click="copy(s.link, s.login)">Copy link</el-button></td>
        </tr>
      </tbody>
    </table>
    <p class="hands">
      <el-button type="primary" @click="print">Print slips</el-button
      ><el-button
        v-if="slips.length > 1"
        @click="copy(links.map((s) => [s.name, s.login, s.code, s.link].join('\t')).join('\n'), 'all')"
        >Copy all for a spreadsheet</el-button
      ><span v-if="copied" role="status">Copied{{ copied === 'all' ? '' : `: the link of ${copied}` }}.</span>
    </p>
  </section>
  <Teleport to="body">
    <div class="alone printed">
      <div v-for="s in links" :key="s.login" class="slip">
        <b>{{ s.name }}</b>
        <span>{{ user?.school }}</span>
        <span>Go to {{ door }} and type this code; it works once, within {{ days }} days.</span>
        <b class="big">{{ s.code }}</b>
        <span
          >You log in as <b>{{ s.login }}</b> from then on.</span
        >
      </div>
    </div>
  </Teleport>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.code {
  font-weight: 700;
  letter-spacing: 0.5px;
  white-space: nowrap;
}
.hands {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 0;
}
.printed {
  display: none;
}
@media print {
  .printed {
    display: grid;
    grid-template-columns: 1fr 1fr;
  }
  .slip {
    break-inside: avoid;
    border: 1px dashed #777;
    padding: 12px 16px;
    display: flex;
    flex-direction: column;
    gap: 3px;
    font-size: 12px;
  }
  .slip > b:first-child {
    font-size: 15px;
  }
  .big {
    font-size: 21px;
    letter-spacing: 1px;
    margin: 4px 0;
  }
}
</style>
