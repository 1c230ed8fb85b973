// Puts the ticket behind the # of the address into the form; it stays out of every log.
const take = () => {
    if (!location.hash) return;
    document.querySelector("input[name=ticket]").value = location.hash.slice(1);
    history.replaceState(null, "", location.pathname);
};
take();
window.addEventListener("hashchange", take);
