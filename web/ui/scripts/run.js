// The run at the bench. The page holds every step; this shows the one that is next, keeps what is
// done in the browser's own store until the server has it, and follows what others do. What may be
// done is the server's to say: here it is only told earlier.
(() => {
  const root = document.querySelector('[data-run]')
  if (!root) return
  const base = `/jobs/${root.dataset.run}/run`
  const steps = [...root.querySelectorAll('[data-step]')]
  const keys = steps.map((step) => step.dataset.step)
  const net = root.querySelector('[data-net]')
  const alldone = root.querySelector('[data-alldone]')
  const load = String(performance.timeOrigin)
  let state = JSON.parse(root.dataset.state)
  const shape = state.shape
  let queue = [] // what happened and was not taken by the server yet
  // What is drawn has no attribute "hidden": it is displayed or not.
  const show = (mark, there) => there ? mark.removeAttribute('display') : mark.setAttribute('display', 'none')
  let shown = steps.findIndex((step) => !step.hidden)
  let lost = false // the server did not answer last time
  let whose = '' // where who ticked gives their PIN
  let stuck = '' // why the server does not take what is sent, "" where it does
  let memory = '' // why the browser keeps nothing, "" where it does

  // name makes a name that no other event has; a tablet on plain http has no randomUUID.
  const name = () => [...crypto.getRandomValues(new Uint8Array(12))].map((b) => b.toString(16).padStart(2, '0')).join('')

  // The store of the browser, one for all jobs.
  let store
  const opened = new Promise((done) => {
    let asked
    try {
      asked = indexedDB.open('yembo bench', 1)
    } catch {
      done()
      return
    }
    asked.onupgradeneeded = () => asked.result.createObjectStore('events', { keyPath: 'n', autoIncrement: true })
    asked.onsuccess = () => { store = asked.result; done() }
    asked.onerror = () => { memory = 'This browser cannot save offline'; done() }
  })
  const within = (mode, act) => new Promise((done, failed) => {
    const t = store.transaction('events', mode)
    const asked = act(t.objectStore('events'))
    t.oncomplete = () => done(asked.result)
    t.onerror = t.onabort = () => failed(t.error)
  })
  async function keep(event) {
    await opened
    if (!store) {
      memory ||= 'This browser cannot save offline'
      return
    }
    try {
      event.n = await within('readwrite', (s) => s.add(event))
    } catch (failure) {
      memory = failure?.name === 'QuotaExceededError' ? 'The store of this browser is full' : 'This browser cannot save offline'
    }
  }
  async function drop(event) {
    queue = queue.filter((e) => e !== event)
    if (store && event.n !== undefined) await within('readwrite', (s) => s.delete(event.n)).catch(() => {})
  }

  // happened notes an event: it counts on this page at once, and is sent as soon as that can be.
  async function happened(fields, photo) {
    const event = { job: root.dataset.run, run: root.dataset.runid, client: name(), by: root.dataset.actor, at: Date.now(), mono: performance.now(), load, fields, photo }
    queue.push(event)
    const follow = shown === nextOf()
    render()
    if (follow || fields.kind === 'tick') go(nextOf())
    if (fields.kind === 'tick') window.scrollTo(0, 0) // the next step begins at its heading
    await keep(event)
    send()
  }

  // ago is how long before now something happened, by the page's own clock where it is still the
  // same page: clocks of tablets jump.
  const ago = (event) => Math.max(0, Math.round(event.load === load ? performance.now() - event.mono : Date.now() - event.at))

  let sending = false
  let again = 0
  async function send() {
    if (sending || stuck !== '') return
    sending = true
    clearTimeout(again)
    try {
      for (;;) {
        // What two people ticked goes as each one's: first what was ticked first, by one of them.
        const ticks = queue.filter((e) => !e.photo)
        const other = ticks.findIndex((e) => e.by !== ticks[0].by)
        const batch = ticks.slice(0, other < 0 ? 100 : Math.min(other, 100))
        if (batch.length === 0) break
        const answer = await fetch(base + '/sync', { method: 'POST', headers: { 'Content-Type': 'application/json', Accept: 'application/json', 'X-CSRF-Token': root.dataset.csrf }, body: JSON.stringify({ events: batch.map((e) => ({ client: e.client, run: Number(e.run ?? 0), ago: ago(e), by: e.by, fields: e.fields })) }) })
        if (!answer.ok) {
          await refusedWhole(answer)
          break
        }
        const told = await answer.json()
        for (const event of batch) await drop(event)
        lost = false
        refuse(batch, told.refused ?? {}, told.kept ?? {})
        take(told)
      }
      // A picture may take long on a slow line: what is ticked meanwhile goes past it.
      const picture = queue.find((e) => e.photo)
      if (picture && !picture.going) sendPhoto(picture)
    } catch {
      lost = true
      again = setTimeout(send, 3000)
    }
    sending = false
    render()
  }

  // refusedWhole is called where an answer is no answer: a server that cannot now is asked again, one
  // that does not take it says why, and what was ticked stays in this browser.
  async function refusedWhole(answer) {
    if (answer.status >= 500 || answer.status === 429) throw new Error(String(answer.status))
    const told = await answer.json().catch(() => ({}))
    if (answer.status === 401 && !told.person && ![...root.querySelectorAll('textarea, input[type=text]')].some((field) => field.value !== '')) {
      // Nothing typed is lost by going: what was ticked is kept in this browser.
      window.location.assign(`/signin?back=${encodeURIComponent(base)}`)
    }
    whose = answer.status === 401 ? `/signin?back=${encodeURIComponent(base)}&person=${told.person ?? ''}` : ''
    stuck = [told.title, told.text, ...(told.faults ?? [])].filter(Boolean).join(': ') || `Not taken (${answer.status})`
    lost = false
  }

  async function sendPhoto(event) {
    event.going = true
    const body = new FormData()
    for (const [field, value] of Object.entries(event.fields)) body.set(field, value)
    body.set('client', event.client)
    body.set('run', event.run ?? '')
    body.set('ago', String(ago(event)))
    body.set('csrf', root.dataset.csrf)
    body.set('photo', event.photo, 'photo.jpg')
    try {
      const answer = await fetch(base + '/photos', { method: 'POST', headers: { Accept: 'application/json' }, body })
      if (!answer.ok && answer.status !== 422) {
        event.going = false
        await refusedWhole(answer)
        render()
        return
      }
      const told = await answer.json().catch(() => ({}))
      await drop(event)
      refuse([event], told.refused ?? {}, told.kept ?? {})
      lost = false
      send()
    } catch {
      event.going = false
      lost = true
      again = setTimeout(send, 5000)
    }
    render()
  }

  // refuse says what the server did not take, and shows the step again. What it says outlives the
  // page, which may be brought anew at once.
  const refusals = `refused ${root.dataset.run}`
  function refuse(sent, refused, kept) {
    let says = []
    for (const event of sent) {
      const step = keys.indexOf(event.fields.step)
      for (const text of refused[event.client] ?? kept[event.client] ?? []) says.push((step >= 0 ? `Step ${step + 1}: ` : '') + text)
      if (refused[event.client] && event.fields.kind === 'tick' && step >= 0) go(step)
    }
    if (says.length === 0) return
    // Many of one kind are one line.
    const same = says.map((text) => text.replace(/^Step \d+: /, ''))
    if (says.length > 1 && same.every((text) => text === same[0])) says = [`${says.length} times: ${same[0]}`]
    sessionStorage.setItem(refusals, JSON.stringify([...JSON.parse(sessionStorage.getItem(refusals) ?? '[]'), ...says]))
    showRefusals()
  }
  function showRefusals() {
    const says = JSON.parse(sessionStorage.getItem(refusals) ?? '[]')
    root.querySelector('[data-refusals]').replaceChildren(...says.map((text) => {
      const p = document.createElement('p')
      p.className = 'fault'
      p.textContent = text
      return p
    }))
    const box = root.querySelector('[data-refused]')
    box.hidden = says.length === 0
    if (says.length > 0) box.scrollIntoView({ block: 'nearest' })
  }
  function forgetRefusals() {
    sessionStorage.removeItem(refusals)
    showRefusals()
  }

  function take(told) {
    const follow = shown === nextOf()
    state = told
    if (state.shape !== shape && queue.length === 0) {
      window.location.assign(base)
      return
    }
    if (follow) shown = nextOf()
    render()
  }

  // news waits for what others do; the server answers when something happened.
  async function news() {
    for (;;) {
      if (document.hidden || lost) {
        await new Promise((done) => setTimeout(done, 1000))
        if (document.hidden) continue
      }
      try {
        const answer = await fetch(`${base}/news?after=${state.last}`, { headers: { Accept: 'application/json' } })
        if (!answer.ok) {
          await refusedWhole(answer)
          render()
          return
        }
        const told = await answer.json()
        const was = lost
        lost = false
        if (told.last !== state.last || told.shape !== state.shape) take(told)
        if (was || queue.length > 0) send()
        render()
      } catch {
        lost = true
        render()
        await new Promise((done) => setTimeout(done, 2000))
      }
    }
  }

  // doneNow is what is done, with what waits to be sent.
  function doneNow() {
    const done = { ...state.done }
    for (const { fields, run } of queue) {
      if (run !== undefined && run !== root.dataset.runid) continue // of an earlier run: it ticks nothing here
      if (fields.kind === 'tick' && !done[fields.step]) done[fields.step] = { by: root.dataset.actor, at: 'just now' }
      if (fields.kind === 'undo') delete done[fields.step]
    }
    return done
  }
  function nextOf() {
    const done = doneNow()
    const next = keys.findIndex((key) => !done[key])
    return next < 0 ? keys.length : next
  }

  // trayNow is what lies on the mat, with what waits to be sent.
  function trayNow(done) {
    const tray = { ...state.tray }
    for (const { fields, run } of queue) {
      if (fields.kind !== 'tick' || run !== undefined && run !== root.dataset.runid) continue
      const step = steps[keys.indexOf(fields.step)]
      if (!step) continue
      for (const [group, n] of Object.entries(JSON.parse(step.dataset.lays))) tray[group] = (tray[group] ?? 0) + n
      for (const [field, n] of Object.entries(fields)) {
        if (!field.startsWith('back/')) continue
        const group = field.slice(5)
        tray[group] = fields.rest === 'missing' ? 0 : Math.max(0, (tray[group] ?? 0) - Number(n))
      }
    }
    return tray
  }

  function go(n) {
    shown = Math.min(Math.max(n, 0), steps.length)
    render()
    const url = new URL(window.location.href)
    if (shown === nextOf() || shown >= keys.length) url.searchParams.delete('step')
    else url.searchParams.set('step', keys[shown])
    history.replaceState(null, '', url)
  }

  const all = (attribute) => root.querySelectorAll(`[data-${attribute}]`)
  function render() {
    const done = doneNow()
    const next = nextOf()
    const at = Math.min(shown, keys.length)
    steps.forEach((step, i) => {
      step.hidden = i !== at
      const mark = done[keys[i]]
      const words = step.querySelector('[data-donewords]')
      words.hidden = !mark
      if (mark) words.textContent = `Done ${mark.at}, ${mark.by}`
      step.classList.toggle('is-done', Boolean(mark))
      step.querySelector('[data-tick]').disabled = Boolean(mark)
    })
    if (alldone) alldone.hidden = at < keys.length
    for (const figure of all('zoom')) figure.hidden = figure.dataset.zoom !== keys[at]
    for (const screws of all('screws')) screws.hidden = screws.dataset.screws !== keys[at]
    for (const seg of all('seg')) seg.classList.toggle('is-done', Boolean(done[seg.dataset.seg]))
    for (const node of all('node')) node.classList.toggle('is-done', Boolean(done[node.dataset.node]))
    for (const floor of all('floor')) floor.classList.toggle('is-now', floor.dataset.floor === keys[at])
    for (const float of all('floatof')) {
      const now = float.dataset.floatof === keys[Math.min(at, keys.length - 1)]
      show(float, now)
      // On a narrow page the drawing scrolls: the float stays in sight.
      const box = now && float.closest('[data-at=descentbox]')
      if (box && box.scrollWidth > box.clientWidth) {
        const of = float.ownerSVGElement
        box.scrollLeft = float.transform.baseVal[0].matrix.e / of.viewBox.baseVal.width * of.clientWidth - box.clientWidth / 2
      }
    }
    for (const line of all('listdone')) line.textContent = done[line.dataset.listdone] ? `done ${done[line.dataset.listdone].at}` : ''
    const tray = trayNow(done)
    let sum = 0
    for (const row of all('group')) {
      const n = tray[row.dataset.group] ?? 0
      sum += n
      row.hidden = n === 0
      row.querySelector('[data-n]').textContent = String(n)
      row.querySelectorAll('svg g').forEach((mark, i) => show(mark, i < n))
    }
    const total = root.querySelector('[data-traysum]')
    if (total) total.textContent = String(sum)
    const plugs = root.querySelector('[data-open]')
    if (plugs?.matches('p')) {
      plugs.hidden = state.open.length === 0
      plugs.querySelector('[data-plugs]').textContent = state.open.join(', ')
    }
    asks(at)
    then(at)
    const undo = root.querySelector('[data-undo]')
    if (undo) {
      const last = keys.findLastIndex((key) => done[key])
      undo.disabled = last < 0
      undo.form.elements.step.value = last < 0 ? '' : keys[last]
      root.querySelector('[data-undon]').textContent = last < 0 ? '' : `step ${last + 1}`
    }
    for (const panel of root.querySelectorAll('.runpanel form')) if (panel.elements.step) panel.elements.step.value = keys[at] ?? ''
    holds(at)
    const no = root.querySelector('[data-stuck]')
    if (no) {
      no.hidden = stuck === ''
      no.querySelector('[data-stuckwords]').textContent = stuck
      const way = no.querySelector('[data-whose]')
      way.hidden = whose === ''
      way.href = whose
    }
    if (net && !root.querySelector('[data-alldone] h2')?.textContent.includes('work is done')) {
      const waiting = queue.length
      net.classList.toggle('is-waiting', waiting > 0 || lost)
      const words = waiting > 0 ? `${waiting} waiting to be sent` : 'All saved'
      net.textContent = stuck !== '' ? `Not taken by the server: ${words.toLowerCase()}` : lost ? `Server not reachable: ${words.toLowerCase()}, ${memory === '' ? 'kept in this browser' : 'do not close the page'}` : words
      if (memory !== '') net.textContent += `. ${memory}: do not close the page before all is sent.`
    }
    if (next !== renderedNext) {
      renderedNext = next
      if (fallenShown !== state.fallen && queue.length === 0) window.location.assign(base)
    }
  }
  let renderedNext = -1
  const fallenShown = state.fallen

  // asks shows what can be found out at a step; two at most, those that are covered first.
  function asks(at) {
    const box = root.querySelector('[data-asks]')
    if (!box) return
    const found = new Set(state.found)
    for (const { fields } of queue) if (fields.kind === 'fact' || fields.kind === 'later') found.add(fields.path)
    let n = 0
    for (const ask of all('ask')) {
      const bare = at > Number(ask.dataset.from) && at <= Number(ask.dataset.until) && !found.has(ask.dataset.ask)
      if (bare) n += 1
      ask.hidden = !bare || n > 2
    }
    box.hidden = n === 0
    root.querySelector('[data-askcount]').textContent = String(n)
  }

  // then lists the two steps that follow.
  function then(at) {
    const list = root.querySelector('[data-then]')
    if (!list) return
    list.replaceChildren(...steps.slice(at + 1, at + 3).map((step) => {
      const row = document.createElement('li')
      const n = document.createElement('span')
      n.className = 'mono'
      n.textContent = step.dataset.n
      const words = document.createElement('span')
      words.textContent = step.dataset.title
      const under = document.createElement('span')
      under.className = 'under'
      under.textContent = step.dataset.under
      words.append(under)
      row.append(n, words)
      return row
    }))
  }

  function holds(at) {
    const box = root.querySelector('[data-holds]')
    const list = steps[at]?.querySelector('[data-holding]')
    if (!box) return
    box.querySelector('ul')?.remove()
    box.hidden = !list
    if (list) box.append(list.content.cloneNode(true))
  }

  // ready says what is still missing before a step is ticked, "" where nothing is.
  function missing(form) {
    for (const need of form.querySelectorAll('[data-need]')) if (!need.checked) return 'read the caution, and say so'
    let wrong = ''
    for (const box of form.querySelectorAll('[data-back]')) {
      const field = form.elements[box.dataset.back]
      if (field.value === '' || Number(field.value) !== Number(box.dataset.count)) wrong = `count them back: ${field.value || 0} of ${box.dataset.count}`
    }
    if (wrong && (form.elements.rest.value === '' || form.elements.why.value.trim() === '')) return wrong
    const serial = form.querySelector('[data-serial]')
    if (serial && serial.value.trim() === '' && !form.dataset.asked) {
      form.dataset.asked = 'yes'
      return 'serial not scanned; press again to skip it'
    }
    return ''
  }

  document.addEventListener('submit', (event) => {
    const form = event.target.closest('form[data-event], form[data-photo]')
    if (!form || !root.contains(form)) return
    event.preventDefault()
    const data = new FormData(form, event.submitter)
    if (form.matches('[data-photo]')) {
      const photo = data.get('photo')
      if (photo?.size > 0) happened({ kind: 'photo', step: keys[shown] ?? '', text: data.get('text') }, photo)
      form.reset()
      close()
      return
    }
    const fields = {}
    for (const [field, value] of data) if (field !== 'csrf' && field !== 'client') fields[field] = value
    if (fields.kind === 'tick' && !fields.skip) {
      const says = missing(form)
      const note = form.querySelector('[data-ticknote]')
      note.textContent = says
      if (says !== '') {
        if (says.startsWith('count')) form.querySelector('[data-rest]').open = true
        form.querySelector(':invalid, [data-need]:not(:checked), [data-back]:not(:checked), [data-serial]')?.focus()
        return
      }
    }
    if (['end', 'stop', 'detour', 'solved', 'offer', 'pause', 'resume'].includes(fields.kind)) leaveAfter()
    forgetRefusals()
    if (fields.kind === 'fact' && !Object.keys(fields).some((f) => f.startsWith('value') && fields[f] !== '')) return
    happened(fields)
    if (['otherwise', 'note', 'detour'].includes(fields.kind)) form.reset()
    close()
  }, true)

  // leaveAfter brings the page anew when the server has taken what changes its shape.
  let leaving = false
  async function leaveAfter() {
    if (leaving) return
    leaving = true
    for (;;) {
      await new Promise((done) => setTimeout(done, 150))
      if (queue.length === 0 && !sending || stuck !== '') break
    }
    leaving = false
    if (stuck !== '') return
    if (root.querySelector('[data-refused]').hidden) window.location.assign(base)
  }

  // Panels.
  function close() {
    for (const panel of root.querySelectorAll('[data-panel]')) panel.classList.remove('is-open')
  }
  root.addEventListener('click', (event) => {
    const opener = event.target.closest('[data-open]')
    if (opener?.matches('button')) {
      const panel = root.querySelector(`[data-panel="${opener.dataset.open}"]`)
      const open = !panel.classList.contains('is-open')
      close()
      panel.classList.toggle('is-open', open)
      if (open) {
        panel.scrollIntoView({ block: 'nearest' })
        panel.querySelector('summary, button, input')?.focus({ preventScroll: true })
      }
    }
    if (event.target.closest('[data-close]')) close()
    const jump = event.target.closest('[data-jump]')
    if (jump) {
      event.preventDefault()
      go(keys.indexOf(jump.dataset.jump))
      root.querySelector('[data-at=rungrid]')?.scrollIntoView({ block: 'nearest' })
    }
  })

  // Space ticks where no control has the focus; the arrows look at the steps before and after.
  document.addEventListener('keydown', (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector('dialog[open]')) return
    const control = event.target.closest('input, textarea, select, button, a, summary, [contenteditable]')
    if (event.key === 'Escape') close()
    if (control) return
    if (event.key === ' ') {
      event.preventDefault()
      if (!event.repeat) (steps[shown] ?? alldone)?.querySelector('form[data-event] .bigtick')?.click()
    } else if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') {
      event.preventDefault()
      go(shown + (event.key === 'ArrowRight' ? 1 : -1))
    }
  })

  // What is scanned where no field has the focus is the serial of what goes in.
  document.addEventListener('scanned', (event) => {
    const serial = steps[shown]?.querySelector('[data-serial]')
    if (!serial) return
    event.preventDefault()
    serial.value = event.detail
    serial.focus()
  })

  root.querySelector('[data-sendagain]')?.addEventListener('click', () => {
    stuck = ''
    render()
    send().then(() => { if (stuck === '') news() })
  })
  window.addEventListener('online', () => send())
  document.addEventListener('visibilitychange', () => { if (!document.hidden) send() })
  window.addEventListener('beforeunload', (event) => { if (memory !== '' && queue.length > 0) event.preventDefault() })

  opened.then(async () => {
    if (store) {
      const kept = (await within('readonly', (s) => s.getAll()).catch(() => [])).filter((e) => e.job === root.dataset.run)
      for (const event of kept) delete event.going
      queue = [...kept, ...queue.filter((e) => !kept.some((k) => k.client === e.client))]
    }
    if (queue.length > 0) shown = nextOf()
    showRefusals()
    render()
    send()
    if (!root.querySelector('[data-ended]')) news()
  })
})()
