// The arranging of places. The number fields of the form are the truth; this draws
// them, and writes them when something is dragged, moved or turned. What lies on
// what is asked of the server, which knows the rules.
(() => {
  const mat = document.querySelector('[data-mat]')
  const form = document.querySelector('[data-arrange]')
  if (!mat || !form) return
  const scale = Number(mat.dataset.scale)
  const outline = { x: 0, y: 0, w: Number(mat.dataset.width), h: Number(mat.dataset.depth) }
  const guides = mat.querySelector('[data-guides]')
  const status = form.querySelector('[data-status]')
  const undoButton = form.querySelector('[data-undo]')
  const redoButton = form.querySelector('[data-redo]')
  const turnButton = form.querySelector('[data-turn]')
  const names = { x: 'x_mm', y: 'y_mm', w: 'w_mm', h: 'h_mm', turn: 'turn_deg' }
  const snapWithin = 2 // mm

  const things = [...mat.querySelectorAll('[data-thing]')].map((group) => {
    const row = form.querySelector(`[data-row="${group.dataset.thing}"]`)
    const fields = {}
    for (const key of Object.keys(names)) fields[key] = row.querySelector(`[data-field="${names[key]}"]`)
    return { group, row, fields, name: group.dataset.name }
  })
  let chosen = null
  let saved = false

  const number = (text) => Number(String(text).replace(',', '.')) || 0
  const read = (thing) => {
    const at = {}
    for (const key of Object.keys(names)) at[key] = number(thing.fields[key].value)
    return at
  }
  const same = (a, b) => Object.keys(names).every((key) => a[key] === b[key])
  const tenth = (value) => Math.round(value * 10) / 10

  function draw(thing) {
    const at = read(thing)
    const [w, h] = [at.w * scale, at.h * scale]
    thing.group.setAttribute('transform', `translate(${at.x * scale} ${at.y * scale})`)
    const body = thing.group.querySelector('[data-body]')
    body.setAttribute('width', w)
    body.setAttribute('height', h)
    const label = thing.group.querySelector('[data-label]')
    label.setAttribute('x', w / 2)
    label.setAttribute('y', h / 2 + 4)
    // The edge with the contacts: at the left, or where the turn puts it.
    const edge = thing.group.querySelector('[data-edge]')
    const thick = 4 * scale
    const socket = thing.group.classList.contains('is-socket')
    const side = (at.turn + (socket ? 90 : 0)) % 360
    const place = { 0: [0, 0, thick, h], 90: [0, 0, w, thick], 180: [w - thick, 0, thick, h], 270: [0, h - thick, w, thick] }[side] || [0, 0, 0, 0]
    for (const [i, key] of ['x', 'y', 'width', 'height'].entries()) edge.setAttribute(key, place[i])
  }

  function write(thing, at) {
    for (const key of Object.keys(names)) thing.fields[key].value = key === 'turn' ? String(at.turn) : String(tenth(at[key]))
    draw(thing)
  }

  // Undo and redo. Nudges of one thing in quick succession are one step.
  const done = []
  const undone = []
  function remember(thing, before, nudge) {
    const after = read(thing)
    if (same(before, after)) return
    const last = done[done.length - 1]
    if (nudge && last && last.nudge && last.thing === thing && Date.now() - last.when < 800) {
      last.after = after
      last.when = Date.now()
    } else {
      done.push({ thing, before, after, nudge, when: Date.now() })
    }
    undone.length = 0
    changed(thing)
  }
  function step(from, to, side) {
    const entry = from.pop()
    if (!entry) return
    to.push(entry)
    entry.nudge = false
    if (entry.run) { // of screws
      entry.run[side]()
      buttons()
      return
    }
    write(entry.thing, entry[side])
    changed(entry.thing)
    choose(entry.thing)
  }
  const undo = () => step(done, undone, 'before')
  const redo = () => step(undone, done, 'after')

  function buttons() {
    undoButton.disabled = done.length === 0
    redoButton.disabled = undone.length === 0
  }
  form.addEventListener('screwed', (event) => {
    done.push({ run: event.detail })
    undone.length = 0
    buttons()
  })

  function changed(thing) {
    buttons()
    const at = read(thing)
    status.textContent = `${thing.name}: left ${tenth(at.x)}, top ${tenth(at.y)} mm${at.turn ? `, turned by ${at.turn}°` : ''}`
    look()
  }

  // What lies on what now: asked a moment after the last change.
  let asked
  let asking
  function look() {
    clearTimeout(asked)
    asked = setTimeout(async () => {
      if (asking) asking.abort()
      asking = new AbortController()
      const fields = new URLSearchParams(new FormData(form))
      fields.set('do', 'look')
      const told = form.querySelector('[data-told]')
      try {
        const answer = await fetch(form.action, { method: 'POST', body: fields, signal: asking.signal })
        if (answer.ok || answer.status === 422) told.innerHTML = await answer.text()
      } catch (failure) {
        if (failure.name !== 'AbortError') told.textContent = 'Not checked for overlaps: the server does not answer. Your changes are still here.'
      }
    }, 200)
  }

  function choose(thing) {
    chosen = thing
    turnButton.disabled = false
    for (const other of things) {
      other.group.classList.toggle('chosen-thing', other === thing)
      other.row.classList.toggle('chosen-row', other === thing)
    }
  }

  function turn(thing) {
    const before = read(thing)
    const middle = { x: before.x + before.w / 2, y: before.y + before.h / 2 }
    const w = before.h
    const h = before.w
    write(thing, { x: middle.x - w / 2, y: middle.y - h / 2, w, h, turn: (before.turn + 90) % 360 })
    remember(thing, before, false)
  }

  // Snapping: an edge or the middle of what is dragged goes to that of something else
  // where they are within 2 mm; a thin line shows to what.
  function snap(thing, at) {
    const out = { ...at }
    const lines = []
    for (const [from, size] of [['x', 'w'], ['y', 'h']]) {
      let best = snapWithin
      let line = null
      const mine = [0, at[size] / 2, at[size]]
      for (const other of [outline, ...things.filter((t) => t !== thing).map(read)]) {
        for (const theirs of [other[from], other[from] + other[size] / 2, other[from] + other[size]]) {
          for (const offset of mine) {
            const gap = Math.abs(at[from] + offset - theirs)
            if (gap < best) {
              best = gap
              out[from] = tenth(theirs - offset)
              line = [from, theirs]
            }
          }
        }
      }
      if (line) lines.push(line)
    }
    return [out, lines]
  }
  function showGuides(lines) {
    guides.replaceChildren(...lines.map(([axis, at]) => {
      const path = document.createElementNS('http://www.w3.org/2000/svg', 'path')
      path.setAttribute('class', 'guide')
      path.setAttribute('d', axis === 'x' ? `M${at * scale} -8V${outline.h * scale + 8}` : `M-8 ${at * scale}H${outline.w * scale + 8}`)
      return path
    }))
  }

  for (const [i, thing] of things.entries()) {
    thing.group.setAttribute('tabindex', '0')
    draw(thing)
    let drag = null
    thing.group.addEventListener('pointerdown', (event) => {
      if (event.button !== 0) return
      event.preventDefault()
      thing.group.focus({ preventScroll: true })
      choose(thing)
      thing.group.setPointerCapture(event.pointerId)
      const shrink = mat.getScreenCTM().a
      drag = { before: read(thing), x: event.clientX, y: event.clientY, mm: scale * shrink }
    })
    thing.group.addEventListener('pointermove', (event) => {
      if (!drag) return
      const at = { ...drag.before, x: drag.before.x + (event.clientX - drag.x) / drag.mm, y: drag.before.y + (event.clientY - drag.y) / drag.mm }
      const [snapped, lines] = event.ctrlKey ? [at, []] : snap(thing, at)
      showGuides(lines)
      write(thing, snapped)
    })
    const drop = (keep) => () => {
      if (!drag) return
      const before = drag.before
      drag = null
      showGuides([])
      if (!keep) write(thing, before)
      remember(thing, before, false)
    }
    thing.group.addEventListener('pointerup', drop(true))
    thing.group.addEventListener('pointercancel', drop(false))
    thing.group.addEventListener('focus', () => choose(thing))
    thing.group.addEventListener('keydown', (event) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return
      const by = event.shiftKey ? 10 : 1
      const moves = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }
      if (moves[event.key]) {
        const before = read(thing)
        write(thing, { ...before, x: before.x + moves[event.key][0], y: before.y + moves[event.key][1] })
        remember(thing, before, true)
      } else if (event.key === 'r' || event.key === 'R') {
        turn(thing)
      } else if (event.key === 'Escape' && drag) {
        drop(false)()
      } else {
        return
      }
      event.preventDefault()
      event.stopPropagation()
    })
    // A number typed into a field is a change like any other.
    for (const key of Object.keys(names)) {
      const field = thing.fields[key]
      let before = read(things[i])
      field.addEventListener('focus', () => { before = read(thing) })
      field.addEventListener('change', () => {
        draw(thing)
        remember(thing, before, false)
        before = read(thing)
      })
    }
  }

  undoButton.addEventListener('click', undo)
  redoButton.addEventListener('click', redo)
  turnButton.addEventListener('click', () => { if (chosen) turn(chosen) })
  document.addEventListener('keydown', (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.target.matches('input, select, textarea')) return
    const key = event.key.toLowerCase()
    if (key === 'z' && !event.shiftKey) undo()
    else if (key === 'y' || (key === 'z' && event.shiftKey)) redo()
    else return
    event.preventDefault()
  })
  form.addEventListener('submit', () => { saved = true })
  window.addEventListener('beforeunload', (event) => { if (done.length > 0 && !saved) event.preventDefault() })
})()
