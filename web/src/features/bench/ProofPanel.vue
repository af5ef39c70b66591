<script setup lang="ts">
import { computed } from 'vue'
import type { Bench } from './useBench'

const props = defineProps<{ bench: Bench }>()
const { state, proof, proving, machine, give, withhold } = props.bench
/** Look-alikes on one line of distance: what lies inside one reading tolerance cannot be told apart. */
const REACH = 8
const near = computed(() => {
  const found = proof.value
  if (!found) return []
  const open = new Set(found.equals.map((r) => r.fault))
  return [...found.equals, ...found.nearest].slice(0, 6).map((r) => {
    const share = Math.min(r.distance, REACH) / REACH
    return {
      ...r,
      // Short on the line; the title has the whole name.
      short: r.name.replace(' with ', ' + ').replace(/ \([^)]*\)|,[^+]*(?= \+|$)/g, ''),
      open: open.has(r.fault),
      out: r.ruled_out,
      share,
      left: share > 0.5,
      far: r.distance >= REACH,
    }
  })
})
const verdict = computed(() => {
  const found = proof.value
  if (!found) return ''
  if (found.refusal) return `Nothing to prove: ${found.refusal}.`
  if (found.unique) return 'One answer among all single faults and pairs.'
  const n = found.equals.length
  const alike = `${n} other ${n === 1 ? 'answer looks' : 'answers look'} the same`
  return found.judged.fair
    ? `${alike}, and ${n === 1 ? 'it is' : 'they are'} not among the sheet’s answers.`
    : `${alike}.`
})
/** What was looked for, one line each: what holds, by how much, and what came nearest. */
const CLAIM_WORDS: Record<string, string> = {
  singles: 'single faults',
  pairs: 'two faults',
  weather: 'air read 2 °F off',
  company: 'a second fault beside it',
}
const claims = computed(() =>
  (proof.value?.claims ?? []).map((c) => ({
    ...c,
    short: CLAIM_WORDS[c.id] ?? c.text,
    said: c.nearest ? `${c.holds ? 'nearest' : 'fits as well'}: ${c.nearest}` : 'nothing near',
    by: c.margin >= 3 ? '3+' : c.margin.toFixed(1),
  })),
)
const nameOf = (test: string) => machine.value?.tests.find((t) => t.id === test)?.name ?? test
const severity = (text: string) => (text ? ` at ${text}` : '')
const told = (r: { out: boolean; far: boolean; distance: number }) =>
  r.out ? 'ruled out' : r.far ? `${REACH}+` : r.distance.toFixed(1)
</script>

<template>
  <section
    :class="['card', 'proof', { one: (proof?.unique || proof?.judged.fair) && !proving, busy: proving }]"
    aria-label="Proof"
    data-test="proof"
    :aria-busy="proving"
  >
    <div class="alike">
      <h2>Proof</h2>
      <p role="status">
        <b v-if="proving" class="soft" data-test="verdict">Proving…</b
        ><b v-else-if="proof" data-test="verdict">{{ verdict }}</b
        ><span v-else class="soft">No proof for this machine.</span>
      </p>
      <ul
        v-if="claims.length"
        :inert="proving"
        class="claims"
        aria-label="What was proved, with its margin in reading tolerances"
      >
        <li v-for="c in claims" :key="c.id" :class="{ holds: c.holds }" :title="`${c.text}; ${c.said}`">
          <b aria-hidden="true">{{ c.holds ? '✓' : '✕' }}</b><span class="off"
            >{{ c.holds ? 'holds' : 'does not hold' }}: </span
          >{{ c.short }}
          <b class="num">{{ c.by }}</b>
        </li>
      </ul>
      <ol v-if="near.length" :inert="proving" class="ladder" aria-label="Look-alikes by distance in reading tolerances">
        <li
          v-for="r in near"
          :key="r.fault"
          :class="{ open: r.open, out: r.out }"
          :title="`${r.name}${severity(r.severities)}`"
        >
          <i class="dot" :style="{ left: `${r.share * 100}%` }" />
          <span
            :style="
              r.left
                ? { right: `calc(${100 - r.share * 100}% + 9px)`, maxWidth: `calc(${r.share * 100}% - 14px)` }
                : { left: `calc(${r.share * 100}% + 9px)`, maxWidth: `calc(${100 - r.share * 100}% - 9px)` }
            "
            ><template v-if="r.left"
              ><em>{{ r.short }}</em> <b class="num">{{ told(r) }}</b></template
            ><template v-else
              ><b class="num">{{ told(r) }}</b> <em>{{ r.short }}</em></template
            ></span
          >
        </li>
      </ol>
      <p v-if="near.length" class="axis">
        <span>no reading can tell it apart</span><span>distance in reading tolerances →</span>
      </p>
    </div>
    <div class="given" :inert="proving">
      <template v-if="proof && proof.splits.length">
        <h3>Give this too</h3>
        <div v-for="s in proof.splits.slice(0, 3)" :key="s.id" class="split">
          <span :title="`rules out ${s.removes.join(', ')}`"
            >{{ s.text }}<small>rules out {{ s.removes.join(', ') }}</small></span
          >
          <el-button size="small" :aria-label="`Give ${s.text}`" data-test="give" @click="give(s)">Give</el-button>
        </div>
      </template>
      <p v-if="proof?.left.length" class="soft">Nothing here rules out {{ proof.left.join(', ') }}.</p>
      <template v-if="state.given.length">
        <h3>Given with the call</h3>
        <el-tag v-for="t in state.given" :key="t" closable disable-transitions @close="withhold(t)">{{
          nameOf(t)
        }}</el-tag>
      </template>
      <p v-if="proof?.unique && !state.given.length && !state.readings" class="soft">The usual readings are enough.</p>
      <p v-if="proof" :class="['paper', { fair: proof.judged.fair }]" data-test="judged">{{ proof.judged.sentence }}</p>
    </div>
    <div v-if="proof?.difficulty" class="hard" :inert="proving">
      <h3>
        Difficulty <b class="num" data-test="level">{{ proof.difficulty.level }}</b> of 5
      </h3>
      <div class="steps" role="img" :aria-label="`Difficulty ${proof.difficulty.level} of 5`">
        <i v-for="n in 5" :key="n" :class="{ on: n <= proof.difficulty.level }" />
      </div>
      <p class="soft" data-test="success">
        {{ Math.round(100 * proof.difficulty.success) }} of 100 simulated apprentices name it
      </p>
      <ul>
        <li v-for="r in proof.difficulty.reasons" :key="r.text">
          <b class="num">+{{ r.points.toFixed(1) }}</b> {{ r.text }}
        </li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.claims {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 0 0 4px;
  padding: 0;
  font-size: 12px;
}
.claims li {
  white-space: nowrap;
  color: var(--warn-ink, inherit);
}
.claims li > b:first-child {
  color: var(--amber);
  margin-right: 3px;
}
.claims li.holds > b:first-child {
  color: var(--good);
}
.proof {
  border-left: 5px solid var(--amber);
  padding: 8px 12px;
  font-size: 13px;
  display: grid;
  grid-template-columns: minmax(0, 1.7fr) minmax(0, 1.05fr) minmax(0, 0.85fr);
  gap: 16px;
  min-height: 178px;
}
.proof.one {
  border-left-color: var(--good);
}
.proof.busy {
  border-left-color: var(--edge);
}
.busy .claims,
.busy .ladder,
.busy .given,
.busy .hard {
  opacity: 0.4;
}
.proof p {
  margin: 0 0 4px;
}
h2 {
  margin: 0;
  display: inline-block;
  margin-right: 10px !important;
}
.alike > p:first-of-type {
  display: inline;
}
h3 {
  font-size: 12.5px;
  margin: 0 0 3px;
}
.given h3:not(:first-child) {
  margin-top: 6px;
}
.ladder {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  background: linear-gradient(90deg, var(--amber-tint) 0 12.5%, transparent 12.5%);
  border-left: 1.5px solid var(--ink);
  border-bottom: 1.5px solid var(--ink);
}
.ladder li {
  position: relative;
  height: 19px;
  font-size: 12px;
}
.ladder li + li {
  border-top: 1px solid var(--el-fill-color);
}
.ladder span {
  position: absolute;
  top: 1px;
  display: flex;
  gap: 4px;
  white-space: nowrap;
}
.ladder em {
  font-style: normal;
  overflow: hidden;
  text-overflow: ellipsis;
}
.ladder b {
  font-size: 11.5px;
}
.dot {
  position: absolute;
  top: 4px;
  width: 11px;
  height: 11px;
  margin-left: -5px;
  border-radius: 50%;
  background: var(--violet);
  z-index: 1;
}
li.open .dot {
  background: var(--card);
  border: 3px solid var(--amber);
}
li.open span {
  color: var(--amber-dark);
  font-weight: 700;
}
li.out .dot {
  background: var(--card);
  border: 2px solid var(--ink-mid);
}
li.out span {
  color: var(--ink-mid);
}
.axis {
  display: flex;
  justify-content: space-between;
  font-size: 11px;
  color: var(--ink-soft);
  margin-top: 1px !important;
}
.split {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  padding: 1px 0;
  line-height: 1.2;
}
.split small {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
  color: var(--ink-mid);
  font-size: 11.5px;
}
.given .el-tag {
  margin: 0 4px 4px 0;
}
.paper {
  border-left: 3px solid var(--amber);
  padding-left: 6px;
  margin-top: 6px !important;
  font-size: 12.5px;
  line-height: 1.25;
}
.paper.fair {
  border-left-color: var(--good);
}
.steps {
  display: flex;
  gap: 3px;
  margin: 2px 0 4px;
}
.steps i {
  flex: 1;
  height: 7px;
  border-radius: 2px;
  background: var(--violet-edge);
}
.steps i.on {
  background: var(--violet);
}
.hard ul {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 11.5px;
  line-height: 1.3;
}
@media (max-width: 1180px) {
  .proof {
    grid-template-columns: 1fr 1fr;
  }
  .alike {
    grid-column: 1 / -1;
  }
}
@media (max-width: 700px) {
  .proof {
    grid-template-columns: 1fr;
  }
}
</style>
