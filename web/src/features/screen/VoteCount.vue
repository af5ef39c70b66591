<script setup lang="ts">
/** How a vote came out, as bars; while it is open only how many have voted, so that nobody follows the rest. */
import { computed } from 'vue'
import type { LessonVote } from './lesson'

const props = defineProps<{ vote: LessonVote }>()
const most = computed(() => Math.max(1, ...props.vote.counted.map((c) => c.votes)))
</script>

<template>
  <section class="vote" aria-live="polite">
    <template v-if="vote.open">
      <h2>{{ vote.asks }}</h2>
      <p class="num" data-test="voted">{{ vote.voted }} {{ vote.voted === 1 ? 'vote' : 'votes' }} in</p>
    </template>
    <template v-else-if="vote.counted.length">
      <h2>{{ vote.asks }}</h2>
      <ol>
        <li v-for="c in vote.counted.slice(0, 6)" :key="c.id">
          <span>{{ c.text }}</span><i :style="{ width: `${(100 * c.votes) / most}%` }" aria-hidden="true" /><b
            class="num"
            >{{ c.votes }}</b
          >
        </li>
      </ol>
      <p v-if="vote.middle">
        In the middle: <b class="num">{{ vote.middle }}</b>
      </p>
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 0 0 6px;
}
p {
  margin: 4px 0;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr) 2ch;
  gap: 10px;
  align-items: center;
  padding: 3px 0;
}
i {
  height: 0.8em;
  min-width: 3px;
  background: var(--violet);
  border-radius: 2px;
}
</style>
