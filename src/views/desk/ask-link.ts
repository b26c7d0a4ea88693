const form = document.querySelector<HTMLFormElement>('[data-ask]');

form?.addEventListener('submit', (event) => {
  event.preventDefault();
  const mail = new FormData(form).get('mail');
  const [sent, wrong] = [
    form.querySelector<HTMLElement>('.sent'),
    form.querySelector<HTMLElement>('[data-wrong]'),
  ];
  void fetch('/api/v1/desk/links', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ mail }),
  })
    .then(async (response) => {
      const told = response.ok ? '' : String(((await response.json()) as { detail?: string }).detail);
      if (sent) sent.hidden = !response.ok;
      if (wrong) {
        wrong.hidden = response.ok;
        wrong.textContent = told;
      }
    })
    .catch(() => {
      if (!wrong) return;
      wrong.hidden = false;
      wrong.textContent = 'That did not work. Try again in a moment.';
    });
});

export {};
