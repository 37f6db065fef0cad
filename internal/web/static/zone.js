// The zone of the device is offered, where the page does not have it yet.
(() => {
  const form = document.querySelector("[data-zones]");
  if (!form) return;
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const select = form.elements.zone;
  const chosen = select.value || select.options[0].textContent.split(",")[0];
  if (!here || here === "UTC" || here === chosen) return;
  if (![...select.options].some((o) => o.value === here)) select.add(new Option(here, here));
  const hint = form.querySelector("[data-zone-hint]");
  hint.textContent = "Your device is set to " + here + ". ";
  const take = document.createElement("button");
  take.type = "button";
  take.className = "go";
  take.textContent = "Show times on that clock";
  take.addEventListener("click", () => {
    select.value = here;
    form.requestSubmit(form.querySelector("button[name=do]"));
  });
  hint.append(take);
  hint.hidden = false;
})();
