<script setup lang="ts">
/** The question that stands before something many will notice. */
import { question } from './asking'
</script>

<template>
  <!-- within a section its heading is no banner of the page -->
  <section v-if="question">
    <el-dialog
      :model-value="true"
      :title="question.title"
      width="min(460px, 94vw)"
      align-center
      data-test="asking"
      @close="question?.answer(false)"
    >
      <p v-for="line in question.lines" :key="line" class="line">{{ line }}</p>
      <template #footer
        ><el-button data-test="asking-no" @click="question.answer(false)">Cancel</el-button
        ><el-button
          :type="question.danger ? 'danger' : 'primary'"
          autofocus
          data-test="asking-yes"
          @click="question.answer(true)"
          >{{ question.yes }}</el-button
        ></template
      >
    </el-dialog>
  </section>
</template>

<style scoped>
.line {
  margin: 0 0 8px;
  line-height: 1.5;
}
</style>
