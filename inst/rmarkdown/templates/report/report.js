// Printing opens the proofs; on a narrow screen the contents are closed.
"use strict";
(function () {
  document.querySelectorAll("table.sorts").forEach(window.longladderSorts);
  document.querySelectorAll("input[data-for]").forEach(window.longladderSearch);
  // On a narrow screen the contents are closed, so that what was found comes first.
  if (window.matchMedia("(max-width: 760px)").matches)
    document.querySelector("nav details").removeAttribute("open");
  window.addEventListener("beforeprint", function () {
    document.querySelectorAll("details").forEach(function (d) { d.open = true; });
  });
})();
