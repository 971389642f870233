// The fields of a step in a run: what is counted back, and how long the power button is held.
(() => {
  const root = document.querySelector('[data-run]')
  if (!root) return
  // A lot is counted back with one tap; a number can be typed instead.
  root.addEventListener('change', (event) => {
    const box = event.target.closest('[data-back]')
    if (box) box.form.elements[box.dataset.back].value = box.checked ? box.dataset.count : ''
    const number = event.target.closest('input[type=number]')
    const of = number && number.form?.querySelector(`[data-back="${CSS.escape(number.name)}"]`)
    if (of) of.checked = number.value === of.dataset.count
  })

  // count counts the seconds down for which the power button is held.
  function count(button) {
    const bar = button.parentElement.querySelector('progress')
    const whole = Number(button.dataset.hold) * 1000
    const began = performance.now()
    button.disabled = true
    const turn = setInterval(() => {
      const left = whole - (performance.now() - began)
      bar.value = Math.min(100, 100 - left / whole * 100)
      button.textContent = left > 0 ? `Hold it: ${Math.ceil(left / 1000)} s` : 'Let go'
      if (left <= 0) {
        clearInterval(turn)
        button.disabled = false
      }
    }, 100)
  }
  root.addEventListener('click', (event) => {
    const hold = event.target.closest('[data-hold]')
    if (hold) count(hold)
  })
})()
