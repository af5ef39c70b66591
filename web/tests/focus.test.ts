import { afterEach, beforeEach, expect, test } from 'vitest'
import { nextTick } from 'vue'
import { keepFocus } from '@/shared/focusBack'

let leave = () => undefined as void
beforeEach(() => {
  document.body.innerHTML = `<main><h1>Bench</h1>
    <section id="give" aria-label="Give this too"><div><button id="one">Give</button></div><div><button id="two">Give</button></div></section>
    <form id="form"><input id="title" /><button id="save">Save</button></form></main>`
  leave = keepFocus(document)
})
afterEach(() => leave())
const at = (id: string) => document.getElementById(id) as HTMLButtonElement
const settled = async () => {
  for (let n = 0; n < 20; n++) await nextTick()
}

test('a button that goes with its row leaves the focus in its section', async () => {
  at('one').focus()
  at('one').parentElement?.remove()
  await settled()
  expect(document.activeElement?.id).toBe('give')
  at('two').focus()
  expect(at('give').hasAttribute('tabindex')).toBe(false)
})

test('a button that waits for its answer has the focus again when it is done', async () => {
  at('save').focus()
  at('save').disabled = true
  at('save').blur()
  await settled()
  at('save').disabled = false
  await settled()
  expect(document.activeElement?.id).toBe('save')
})

test('a button that was out of use for less than a frame has the focus again', async () => {
  at('one').focus()
  at('give').setAttribute('inert', '')
  await settled()
  at('one').blur()
  at('give').removeAttribute('inert')
  await settled()
  expect(document.activeElement?.id).toBe('one')
})

test('where a section is gone too, the focus goes to what opened it, else to the page', async () => {
  at('title').focus()
  at('one').focus()
  at('give').remove()
  await settled()
  expect(document.activeElement?.id ?? '').toMatch(/^$/)
  expect((document.activeElement as HTMLElement).tagName).toBe('MAIN')
})

test('a click beside everything takes the focus away and it stays away', async () => {
  at('title').focus()
  at('title').blur()
  at('two').parentElement?.remove()
  await settled()
  expect(document.activeElement).toBe(document.body)
})
