// How often the page has asked, and how many answers it has heard and shown. Whoever waits for it waits for the counts.
// Pictures and the ink of sheets come when they come, and are not counted.

const { dataset } = document.documentElement;
let asked = 0;
let answered = 0;
dataset.asked = "0";
dataset.answered = "0";

function ask() {
  asked += 1;
  dataset.asked = String(asked);
}

// Only after what waits for the answer has shown it.
function hear() {
  setTimeout(() => {
    answered += 1;
    dataset.answered = String(answered);
  });
}

// Counts something asked for until its promise is kept or broken, and gives the promise back.
export function counted(promise) {
  ask();
  promise.then(hear, hear);
  return promise;
}

// The element that asked may be gone when the answer comes; its request is not.
document.addEventListener("htmx:beforeSend", (event) => {
  ask();
  event.detail.xhr.addEventListener("loadend", hear);
});
