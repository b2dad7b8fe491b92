import { reactive, watch } from 'vue'

/** How a person's files are written; kept in the browser they use. */
export interface FileForm {
  times: 'local' | 'offset'
  mark: boolean
}

const KEPT = 'deft-file'

function kept(): FileForm {
  try {
    const found = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Partial<FileForm>
    return { times: found.times === 'offset' ? 'offset' : 'local', mark: found.mark !== false }
  } catch {
    return { times: 'local', mark: true }
  }
}

export const fileForm = reactive<FileForm>(kept())

watch(fileForm, (now) => {
  try {
    localStorage.setItem(KEPT, JSON.stringify(now))
  } catch {
    // It holds for this page then.
  }
})
