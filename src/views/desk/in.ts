const button = document.querySelector<HTMLButtonElement>('[data-link]');

button?.addEventListener('click', () => {
  button.disabled = true;
  void fetch('/api/v1/desk/session', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ link: button.dataset.link }),
  })
    .then((response) => {
      if (response.ok) location.assign('/desk');
      else location.reload();
    })
    .catch(() => {
      button.disabled = false;
      const alert = document.querySelector<HTMLElement>('[role=alert]');
      if (!alert) return;
      alert.hidden = false;
      alert.textContent = 'That did not work. Try again in a moment.';
    });
});

export {};
