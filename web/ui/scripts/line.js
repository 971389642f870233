// The line that a record is typed into. The server reads it: this only asks what it
// means so far, shows the answer, and handles the keys.
(() => {
  const form = document.querySelector('[data-line]')
  if (!form) return
  const text = form.querySelector('[data-line-text]')
  const source = form.querySelector('[data-line-source]')
  const look = form.querySelector('[data-look]')
  const host = document.querySelector('[data-drawing-host]')
  const empty = host && host.innerHTML
  const typed = [...form.querySelectorAll('[data-typed]')].map((t) => t.innerHTML.replace(/&lt;/g, '<').replace(/&gt;/g, '>').replace(/&amp;/g, '&'))
  const least = text.rows
  let recalled = -1
  let asked
  let asking
  let answered = text.value // what the answer on the page is about

  // What is typed stays in this tab until it is kept: a look at the words and Back again lose nothing.
  const kept = `line ${form.action}`
  let sent = false // it is on its way: a key that still comes is not kept
  const remember = () => {
    if (sent) return
    if (text.value === '') sessionStorage.removeItem(kept)
    else sessionStorage.setItem(kept, text.value)
  }
  if (text.value.trim() === '' || text.value === text.defaultValue) {
    const was = sessionStorage.getItem(kept)
    if (was !== null && was !== text.value) {
      text.value = was
      addEventListener('load', () => ask())
    }
  }
  form.addEventListener('submit', () => {
    sent = true
    sessionStorage.removeItem(kept)
  })

  function grow() {
    text.rows = Math.max(least, text.value.split('\n').length)
  }

  function show(answer) {
    look.innerHTML = answer
    const drawing = look.querySelector('template[data-drawing]')
    if (drawing && host) host.replaceChildren(drawing.content.cloneNode(true))
  }

  async function ask() {
    clearTimeout(asked)
    if (asking) asking.abort()
    const now = text.value
    if (now.trim() === '') {
      look.replaceChildren()
      if (host) host.innerHTML = empty
      answered = now
      return
    }
    asking = new AbortController()
    const fields = new URLSearchParams(new FormData(form))
    fields.set('do', 'look')
    fields.set('cursor', String([...now.slice(0, text.selectionStart)].length))
    try {
      const answer = await fetch(form.action, { method: 'POST', body: fields, signal: asking.signal })
      if (!answer.ok) return
      show(await answer.text())
      answered = now
    } catch (failure) {
      if (failure.name !== 'AbortError') look.textContent = 'The server does not answer. What you typed is still here.'
    }
  }

  // Lines that are proposed begin with what has to be told first.
  const gap = text.value.startsWith('model \n') ? 'model '.length : -1
  if (gap > 0) {
    text.setSelectionRange(gap, gap)
    ask()
  }

  text.addEventListener('input', () => {
    remember()
    grow()
    recalled = -1
    clearTimeout(asked)
    asked = setTimeout(ask, 50)
  })
  source.addEventListener('change', ask)

  // What the lines make likely is added as a line of its own.
  look.addEventListener('click', (event) => {
    const offer = event.target.closest('[data-offer]')
    if (!offer) return
    text.value = `${text.value.trimEnd()}\n${offer.dataset.offer}`
    text.focus()
    remember()
    grow()
    ask()
  })

  // take puts the proposed word in place of the one at the cursor.
  function take() {
    const word = look.querySelector('[data-propose]')
    if (!word || answered !== text.value || text.selectionStart !== text.selectionEnd) return false
    const before = text.value.slice(0, text.selectionStart)
    const start = Math.max(before.lastIndexOf(' '), before.lastIndexOf('\n')) + 1
    if (start === before.length) return false
    const chosen = word.textContent
    const more = /[:+>]$/.test(chosen) ? '' : ' '
    text.setRangeText(chosen + more, start, before.length, 'end')
    ask()
    return true
  }

  // takeLater is Tab pressed before the answer is there: the word that it proposes is taken then. Who pressed
  // it once more, or went somewhere else meanwhile, is not called back.
  let tabs = 0
  async function takeLater() {
    const mine = ++tabs
    await ask()
    if (mine !== tabs || document.activeElement !== text) return
    if (!take()) source.focus()
  }

  async function keep() {
    if (answered !== text.value) await ask()
    if (look.querySelector('[data-clear]')) form.requestSubmit()
  }

  function recall(by) {
    const next = recalled + by
    if (next < -1 || next >= typed.length) return false
    recalled = next
    text.value = next < 0 ? '' : typed[next]
    grow()
    ask()
    return true
  }

  text.addEventListener('keydown', (event) => {
    const one = !text.value.includes('\n')
    // Enter keeps a line; among several it begins another, and with Ctrl it keeps them all.
    if (event.key === 'Enter' && !event.shiftKey && (one || event.ctrlKey || event.metaKey)) keep()
    else if (event.key === 'Tab' && !event.shiftKey && take()) { /* the word is taken */ }
    else if (event.key === 'Tab' && !event.shiftKey && answered !== text.value && text.value !== '') takeLater()
    else if (event.key === 'Escape') look.querySelectorAll('[data-propose]').forEach((word) => word.remove())
    else if (event.key === 'ArrowUp' && one && (text.value === '' || recalled >= 0) && recall(1)) { /* an earlier line */ }
    else if (event.key === 'ArrowDown' && one && recalled >= 0 && recall(-1)) { /* a later one */ }
    else if (event.altKey && event.key >= '1' && event.key <= '7') {
      source.selectedIndex = Number(event.key) - 1
      ask()
    } else if (event.ctrlKey && event.key === 'z' && text.value === '') {
      const undo = document.querySelector('[data-at=kept] button')
      if (undo) undo.click()
    } else return
    event.preventDefault()
  })
  grow()
})()
