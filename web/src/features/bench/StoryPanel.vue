<script setup lang="ts">
import { ref } from 'vue'
import { api, ask, sentence } from '@/api/client'
import { kept } from '@/shared/kept'
import type { Bench } from './useBench'

const props = defineProps<{ bench: Bench }>()
const { state, body } = props.bench
const failure = ref('')

/** The last draft: what still stands as it was drafted may be drafted again, what somebody typed never is. */
const last = kept('bench.drafted', { complaint: '', history: '', look_round: '' })
/** A draft fills what is empty; another one replaces what was drafted before as well. */
async function draft(again: boolean): Promise<void> {
  failure.value = ''
  const turn = again ? state.value.story.turn + 1 : state.value.story.turn
  try {
    const found = await ask(
      api.POST('/api/v1/bench/story', { body: { ...body.value, given_tests: state.value.given, turn } }),
    )
    const now = state.value.story
    const drafted = { complaint: found.complaint, history: found.history, look_round: found.look_round.join('\n') }
    const pick = (part: keyof typeof drafted) =>
      !now[part].trim() || (again && now[part] === last.value[part]) ? drafted[part] : now[part]
    state.value.story = {
      complaint: pick('complaint'),
      history: pick('history'),
      look_round: pick('look_round'),
      turn,
    }
    last.value = drafted
  } catch (error) {
    failure.value = sentence(error)
  }
}
</script>

<template>
  <div class="story">
    <div class="fields">
      <label
        ><span>Complaint</span
        ><textarea
          v-model="state.story.complaint"
          rows="3"
          maxlength="600"
          data-test="complaint"
          placeholder="What the customer says"
        />
      </label>
      <label
        ><span>History</span
        ><textarea
          v-model="state.story.history"
          rows="2"
          maxlength="600"
          placeholder="Who worked on it last, what changed"
        />
      </label>
      <label
        ><span>Visual inspection, one line each</span
        ><textarea v-model="state.story.look_round" rows="4" data-test="look-round" placeholder="Filter clean." />
      </label>
    </div>
    <div class="side">
      <el-button data-test="draft" @click="draft(false)">Draft the empty ones</el-button>
      <el-button @click="draft(true)">Another draft</el-button>
      <p class="soft">
        A draft comes from the fault and the machine and gives away no more than an honest inspection would. Change any
        of it. What you leave empty is drafted new for each apprentice.
      </p>
      <label
        ><span>Tags, with commas between</span
        ><input v-model="state.tags" maxlength="200" data-test="tags" placeholder="charge, week 9"
      /></label>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    </div>
  </div>
</template>

<style scoped>
.story {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 210px;
  gap: 18px;
  height: 100%;
  overflow: auto;
  padding: 4px 2px;
}
label {
  display: block;
  margin-bottom: 8px;
}
label span {
  display: block;
  font-size: 13px;
  color: var(--ink-soft);
  margin-bottom: 2px;
}
textarea,
input {
  width: 100%;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 6px 8px;
  font: inherit;
  font-size: 14px;
  background: var(--card);
  color: var(--ink);
  resize: vertical;
}
.side {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.side .el-button {
  margin: 0;
}
.side p {
  margin: 0;
  font-size: 12.5px;
}
</style>
