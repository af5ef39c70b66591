<script setup lang="ts">
import { computed } from 'vue'
import type { Bench } from './useBench'

const props = defineProps<{ bench: Bench }>()
const { state, proof, proving, machine, give, withhold } = props.bench
/** Look-alikes on one line of distance: what lies inside one reading tolerance cannot be told apart. */
const REACH = 6
const near = computed(() => {
  const found = proof.value
  if (!found) return []
  const open = new Set(found.equals.map((r) => r.fault))
  return [...found.equals, ...found.nearest].slice(0, 6).map((r) => ({ ...r, open: open.has(r.fault), out: r.ruled_out, share: Math.min(r.distance, REACH) / REACH }))
})
const verdict = computed(() => {
  const found = proof.value
  if (!found) return ''
  if (found.refusal) return `Nothing to prove: ${found.refusal}.`
  if (found.unique) return 'One defensible answer.'
  return `${found.equals.length} other ${found.equals.length === 1 ? 'answer looks' : 'answers look'} the same.`
})
const nameOf = (test: string) => machine.value?.tests.find((t) => t.id === test)?.name ?? test
const severity = (text: string) => (text ? ` at ${text}` : '')
</script>

<template>
  <section :class="['card', 'proof', { one: proof?.unique, busy: proving }]" aria-label="Proof" role="status" data-test="proof">
    <div class="alike">
      <h2>Proof</h2>
      <p v-if="proof"><b data-test="verdict">{{ verdict }}</b></p>
      <p v-else class="soft">{{ proving ? 'Proving…' : 'No proof for this machine here.' }}</p>
      <ol v-if="near.length" aria-label="Look-alikes by distance in reading tolerances">
        <li v-for="r in near" :key="r.fault" :class="{ open: r.open, out: r.out }" :title="`${r.name}${severity(r.severities)}`">
          <span>{{ r.name }}</span>
          <span class="line"><i class="edge" /><i class="dot" :style="{ left: `${r.share * 100}%` }" /></span>
          <b class="num">{{ r.out ? 'ruled out' : r.distance.toFixed(1) }}</b>
        </li>
      </ol>
      <p v-if="near.length" class="soft axis">Distance in reading tolerances; left of the mark no reading tells them apart.</p>
    </div>
    <div class="given">
      <template v-if="proof && proof.splits.length">
        <h3>Give this as well</h3>
        <div v-for="s in proof.splits" :key="s.id" class="split">
          <span>{{ s.text }}<small>rules out {{ s.removes.join(', ') }}</small></span>
          <el-button v-if="s.kind !== 'reading'" size="small" :aria-label="`Give ${s.text}`" data-test="give" @click="give(s.id)">Give</el-button>
          <small v-else class="soft">a reading more</small>
        </div>
      </template>
      <p v-if="proof?.left.length" class="soft">Nothing here splits off {{ proof.left.join(', ') }}.</p>
      <template v-if="state.given.length">
        <h3>Given with the call</h3>
        <el-tag v-for="t in state.given" :key="t" closable disable-transitions @close="withhold(t)">{{ nameOf(t) }}</el-tag>
      </template>
      <p v-if="proof?.unique && !state.given.length" class="soft">The usual readings are enough.</p>
    </div>
    <div v-if="proof?.difficulty" class="hard">
      <h3>Difficulty <b class="num">{{ proof.difficulty.level }}</b> of 5</h3>
      <div class="steps" role="img" :aria-label="`Difficulty ${proof.difficulty.level} of 5`"><i v-for="n in 5" :key="n" :class="{ on: n <= proof.difficulty.level }" /></div>
      <ul><li v-for="r in proof.difficulty.reasons.slice(0, 4)" :key="r.text"><b class="num">+{{ r.points.toFixed(1) }}</b> {{ r.text }}</li></ul>
    </div>
  </section>
</template>

<style scoped>
.proof { border-left: 5px solid var(--amber); padding: 10px 14px; font-size: 13.5px; display: grid; grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr) minmax(0, 0.95fr); gap: 18px; }
.proof.one { border-left-color: var(--good); }
.proof.busy { opacity: 0.72; }
.proof p { margin: 0 0 4px; }
h2 { margin: 0 0 2px; }
h3 { font-size: 13px; margin: 0 0 3px; }
.given h3:not(:first-child) { margin-top: 8px; }
ol { list-style: none; margin: 2px 0 0; padding: 0; }
ol li { display: grid; grid-template-columns: minmax(0, 1fr) 64px 56px; align-items: center; gap: 6px; font-size: 12.5px; }
ol li > span:first-child { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
ol li b { text-align: right; }
ol li.open b, ol li.open > span:first-child { color: #8a4b00; font-weight: 700; }
ol li.out b { font-weight: 400; font-size: 11px; font-family: inherit; color: #56516a; }
.line { position: relative; height: 12px; border-bottom: 1.5px solid #b9b4c6; }
.edge { position: absolute; left: calc(100% / 6); top: 1px; bottom: -3px; border-left: 2px solid var(--ink); }
.dot { position: absolute; bottom: -5px; width: 9px; height: 9px; margin-left: -4px; border-radius: 50%; background: var(--violet); box-sizing: border-box; }
li.open .dot { background: var(--amber); }
li.out .dot { background: var(--card); border: 2px solid #56516a; }
.axis { font-size: 11.5px; margin-top: 5px !important; }
.split { display: flex; justify-content: space-between; align-items: center; gap: 8px; padding: 2px 0; }
.split small { display: block; color: #56516a; font-size: 11.5px; }
.given .el-tag { margin: 0 4px 4px 0; }
.steps { display: flex; gap: 3px; margin: 2px 0 4px; }
.steps i { flex: 1; height: 7px; border-radius: 2px; background: #ddd8e6; }
.steps i.on { background: var(--violet); }
.hard ul { list-style: none; margin: 0; padding: 0; font-size: 12px; }
@media (max-width: 900px) { .proof { grid-template-columns: 1fr; } }
</style>
