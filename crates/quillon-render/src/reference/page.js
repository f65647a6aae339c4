const field = document.getElementById('search');
field.parentElement.hidden = false;
const entries = [...document.querySelectorAll('nav .entry')].map(entry => {
  const target = document.getElementById(decodeURIComponent(entry.firstChild.hash.slice(1)));
  const around = target.tagName === 'DT' ? target.textContent + target.nextElementSibling.textContent : target.textContent;
  return [entry, around.toLowerCase()];
});
field.addEventListener('input', () => {
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
  for (const [entry, text] of entries) entry.hidden = !words.every(word => text.includes(word));
});
