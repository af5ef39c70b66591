import '@fontsource/archivo/latin-400.css'
import '@fontsource/archivo/latin-600.css'
import '@fontsource/archivo/latin-700.css'
import '@fontsource/b612/latin-400.css'
import '@fontsource/b612/latin-700.css'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'
import { keepFocus } from './shared/focusBack'
import './styles.css'

createApp(App).use(router).mount('#app')
keepFocus(document)
