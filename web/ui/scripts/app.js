// Small helpers for pages that also work without any script. Registered as
// components, because the policy of the pages forbids inline code.
document.documentElement.classList.add('scripted')

document.addEventListener('alpine:init', () => {
  // keys: the shortcuts of every page, and the list of them.
  Alpine.data('keys', () => ({
    pending: '',
    soon: 0,
    init() {
      document.addEventListener('keydown', (event) => this.press(event))
    },
    show() {
      this.$refs.keys.showModal()
    },
    // row goes to the first link of the next row of a list, or of the one before.
    row(by) {
      const links = [...document.querySelectorAll('main tbody tr')].map((row) => row.querySelector('a')).filter(Boolean)
      const at = links.findIndex((link) => link.closest('tr').contains(document.activeElement))
      links[Math.min(Math.max(at + by, 0), links.length - 1)]?.focus()
    },
    // A key acts a moment later: a scanner types faster, and none of its letters is meant so.
    press(event) {
      clearTimeout(this.soon)
      const typing = event.target.closest('input, textarea, select, [contenteditable]')
      if (typing || event.ctrlKey || event.metaKey || event.altKey || this.$refs.keys.open) return
      const places = Object.fromEntries([...this.$refs.keys.querySelectorAll('[data-go]')].map((row) => [row.dataset.go, row.dataset.to]))
      const own = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`)
      const acts = {
        '?': () => this.show(),
        '/': () => { const find = document.querySelector('[data-find]'); find?.focus(); find?.select() },
        l: () => document.querySelector('[data-line-text]')?.focus(),
        j: () => this.row(1),
        k: () => this.row(-1),
        n: () => { const fresh = document.querySelector('[data-new]'); if (fresh) window.location.assign(fresh.href) },
      }
      let act = acts[event.key]
      const option = document.querySelectorAll('table.plan thead th[scope=col]:not(.today)')[Number(event.key) - 1]
      if (option) act = () => { option.tabIndex = -1; option.scrollIntoView({ block: 'center', inline: 'center' }); option.focus() }
      if (this.pending === 'g' && places[event.key]) act = () => window.location.assign(places[event.key])
      else if (own) act = () => (own.matches('input, select, textarea') ? own.focus() : own.click())
      this.pending = act ? '' : event.key
      if (!act) return
      event.preventDefault()
      // What goes to a field goes at once: the next letters are meant for it.
      if ('/l'.includes(event.key) || own?.matches('input, select, textarea')) act()
      else this.soon = setTimeout(act, 60)
    },
  }))

  // pin: the digits of a shared screen, for who has no keys there.
  Alpine.data('pin', () => ({
    type(event) {
      this.$refs.pin.value = (this.$refs.pin.value + event.currentTarget.dataset.digit).slice(0, 8)
    },
    clear() {
      this.$refs.pin.value = ''
      this.$refs.pin.focus()
    },
  }))

  // waiting: what was ticked without the network and waits in this browser for whoever ticked it.
  Alpine.data('waiting', () => ({
    count: 0,
    names: [],
    get told() {
      const ticks = this.count === 1 ? '1 tick waits' : `${this.count} ticks wait`
      return `${ticks} on this screen${this.names.length ? ', of ' + this.names.join(', ') : ''}`
    },
    async init() {
      const known = await window.indexedDB?.databases?.().catch(() => [])
      if (!known?.some((d) => d.name === 'yembo bench')) return
      const asked = window.indexedDB.open('yembo bench')
      asked.onsuccess = () => {
        const all = asked.result.transaction('events').objectStore('events').getAll()
        all.onsuccess = () => {
          this.count = all.result.length
          this.names = [...new Set(all.result.map((e) => e.by).filter(Boolean))]
          asked.result.close()
        }
      }
    },
  }))

  // rows: a list with spare rows that stay folded until asked for.
  Alpine.data('rows', () => ({
    shown: 0,
    all: 0,
    init() {
      this.all = this.$root.querySelectorAll('[data-row]').length
      this.shown = Number(this.$root.dataset.rows)
      this.fold()
    },
    get more() {
      return this.shown < this.all
    },
    fold() {
      this.$root.querySelectorAll('[data-row]').forEach((row, i) => { row.hidden = i >= this.shown })
    },
    add() {
      this.shown += 1
      this.fold()
      const row = this.$root.querySelectorAll('[data-row]')[this.shown - 1]
      row.querySelector('input:not([type=hidden]), select').focus()
    },
  }))

  Alpine.data('printer', () => ({
    print() {
      window.print()
    },
  }))
})

// A form is sent once: the second click of a double click does nothing. The server
// holds to this too; here it only saves the wait.
document.addEventListener('submit', (event) => {
  const form = event.target
  if (form.dataset.sent) {
    event.preventDefault()
    return
  }
  if (form.method === 'post') form.dataset.sent = 'yes'
})
window.addEventListener('pageshow', () => {
  document.querySelectorAll('form[data-sent]').forEach((form) => { delete form.dataset.sent })
})

// After a form came back with faults, the first of them has the focus.
document.addEventListener('DOMContentLoaded', () => {
  const wrong = document.querySelector('[aria-invalid=true]')
  if (wrong) wrong.focus()
})

// Where a drawing is wider than the screen, what is planned in it comes into view.
document.addEventListener('DOMContentLoaded', () => {
  document.querySelectorAll('.drawing').forEach((box) => {
    const marks = [...box.querySelectorAll('.planned, [data-at=freshmark]')].map((mark) => mark.getBoundingClientRect())
    if (marks.length === 0 || box.scrollWidth <= box.clientWidth) return
    const left = Math.min(...marks.map((mark) => mark.left))
    const right = Math.max(...marks.map((mark) => mark.right))
    box.scrollLeft = (left + Math.min(right, left + box.clientWidth)) / 2 - box.getBoundingClientRect().left - box.clientWidth / 2
  })
})

// On a phone a table is rows of labelled lines, the first words what matters: each cell gets the name
// of its column, which the styles show there.
document.addEventListener('DOMContentLoaded', () => {
  document.querySelectorAll('.scroll > table:not(.benchlist, [data-asis])').forEach((table) => {
    // Of an option its letter, of today the word alone: their names stand in the first row.
    const nameOf = (cell) => {
      const mark = cell.querySelector('[data-at=optmark]')
      if (mark) return mark.textContent.trim()
      const words = [...cell.childNodes].map((node) => node.textContent.trim()).filter(Boolean)
      return cell.matches('.today') ? words[0] : words.join(' ')
    }
    const names = [...table.querySelectorAll('thead tr:first-child > *')].map(nameOf)
    const rows = [...table.querySelectorAll('tbody tr')]
    if (names.length === 0 || rows.some((row) => row.children.length !== names.length)) return
    rows.forEach((row) => [...row.children].forEach((cell, i) => {
      if (i > 0 && names[i]) cell.dataset.th = names[i]
      if (cell.textContent.trim() === '' && !cell.querySelector('input, select, button, svg, img, textarea')) cell.classList.add('bareof')
    }))
    table.classList.add('stacked')
  })
})
