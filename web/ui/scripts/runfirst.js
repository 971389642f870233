// A first opening: the time of a step is taken by itself, screws are tapped onto the outline, and a
// question puts a line that answers it into the field.
(() => {
  const root = document.querySelector('[data-first]')
  if (!root) return
  const form = root.querySelector('[data-line]')
  const text = form.querySelector('[data-line-text]')
  const map = root.querySelector('[data-tapmap]')
  const began = performance.now() - Number(root.dataset.since)
  const told = root.querySelector('[data-tapped]')
  const untap = root.querySelector('[data-untap]')
  const layer = map.querySelector('[data-taps]')
  const kept = `taps ${root.dataset.first} ${root.dataset.shape}`
  let taps = JSON.parse(sessionStorage.getItem(kept) ?? '[]')
  let typedAt = 0 // when the first letter of the line was typed
  let tappedAt = 0

  function hidden(of, field) {
    let input = of.querySelector(`input[name=${field}]`)
    if (!input) {
      input = document.createElement('input')
      input.type = 'hidden'
      input.name = field
      of.append(input)
    }
    return input
  }
  hidden(form, 'client').value = [...crypto.getRandomValues(new Uint8Array(12))].map((b) => b.toString(16).padStart(2, '0')).join('')

  // groups are the counts of screws in the line: 9xPH0x5 2xPH0x8.
  const groups = () => [...text.value.matchAll(/(?:^|\s)(\d{1,3})x(?=[A-Za-z])/g)].map((m) => Number(m[1]))
  function groupOf(i) {
    let before = 0
    const counts = groups()
    for (let g = 0; g < counts.length; g++) {
      before += counts[g]
      if (i < before) return g
    }
    return Math.max(0, counts.length - 1)
  }
  function draw() {
    const ns = 'http://www.w3.org/2000/svg'
    layer.replaceChildren(...taps.flatMap((t, i) => {
      const dot = document.createElementNS(ns, 'circle')
      dot.setAttribute('class', 'tap')
      dot.setAttribute('cx', t.x * 2)
      dot.setAttribute('cy', t.y * 2)
      dot.setAttribute('r', 12)
      const letter = document.createElementNS(ns, 'text')
      letter.setAttribute('class', 'mono strong mid')
      letter.setAttribute('x', t.x * 2)
      letter.setAttribute('y', t.y * 2 + 6)
      letter.textContent = String.fromCharCode(97 + groupOf(i))
      return [dot, letter]
    }))
    const wanted = groups().reduce((a, b) => a + b, 0)
    if (told) told.textContent = taps.length > 0 || wanted > 0 ? `${taps.length} of ${wanted} tapped.` : ''
    untap.hidden = taps.length === 0
    sessionStorage.setItem(kept, JSON.stringify(taps))
  }
  map.addEventListener('click', (event) => {
    if (!told) return
    const box = map.getBoundingClientRect()
    const view = map.viewBox.baseVal
    const x = (view.x + (event.clientX - box.left) / box.width * view.width) / 2
    const y = (view.y + (event.clientY - box.top) / box.height * view.height) / 2
    const within = (n, most) => Math.round(Math.min(Math.max(n, 0), most) * 10) / 10
    taps.push({ x: within(x, Number(map.dataset.wide) / 2), y: within(y, Number(map.dataset.deep) / 2) })
    tappedAt = performance.now()
    draw()
  })
  untap.addEventListener('click', () => {
    taps.pop()
    draw()
  })

  // took is a step's own time: to the last screw tapped, else to the first letter typed.
  const took = () => Math.max(0, Math.round((tappedAt || typedAt || performance.now()) - began))
  text.addEventListener('input', () => {
    if (typedAt === 0 && text.value !== '') typedAt = performance.now()
    if (text.value === '') typedAt = 0
    draw()
  })
  document.addEventListener('submit', (event) => {
    if (event.target === form) {
      hidden(form, 'ms').value = took()
      hidden(form, 'taps').value = JSON.stringify(taps.map((t, i) => ({ X: t.x, Y: t.y, Group: groupOf(i) })))
      sessionStorage.removeItem(kept)
    }
    const open = event.target.closest('[data-openform]')
    if (open) open.querySelector('[data-ms]').value = took()
  }, true)

  root.addEventListener('click', (event) => {
    const eg = event.target.closest('[data-eg]')
    if (!eg) return
    text.value = eg.dataset.eg
    text.focus()
    text.setSelectionRange(0, text.value.length)
    text.dispatchEvent(new Event('input', { bubbles: true }))
    text.scrollIntoView({ block: 'nearest' })
  })

  const clock = root.querySelector('[data-clock]')
  setInterval(() => {
    const s = Math.round((performance.now() - began) / 1000)
    clock.textContent = `${Math.floor(s / 60)} min ${String(s % 60).padStart(2, '0')} s`
  }, 1000)
  draw()

  // Another tablet that records on the same machine: the page comes anew.
  ;(async () => {
    for (;;) {
      try {
        const answer = await fetch(`/jobs/${root.dataset.first}/run/news?after=${root.dataset.last}`)
        if (answer.ok) {
          const now = await answer.json()
          if (now.shape !== root.dataset.shape && text.value === '') window.location.assign(`/jobs/${root.dataset.first}/run`)
        }
      } catch {
        await new Promise((done) => setTimeout(done, 3000))
      }
      await new Promise((done) => setTimeout(done, 500))
    }
  })()
})()
