// Tables sort by a click on a heading and are searched as one types, in the report and on the desk.
"use strict";
(function () {
  function value(row, at) {
    var cell = row.cells[at];
    return cell.hasAttribute("data-v") ? cell.getAttribute("data-v") : cell.textContent;
  }
  function sort(table, at, up, number) {
    var body = table.tBodies[0];
    var rows = Array.prototype.slice.call(body.rows);
    rows.sort(function (a, b) {
      var x = value(a, at), y = value(b, at);
      // What is missing stays last either way.
      if (x === "" || y === "") return (x === "") - (y === "");
      var order = number ? Number(x) - Number(y) : x.localeCompare(y);
      return up ? order : -order;
    });
    rows.forEach(function (row) { body.appendChild(row); });
  }
  window.longladderSorts = function (table) {
    var heads = table.tHead.rows[0].cells;
    Array.prototype.forEach.call(heads, function (head, at) {
      head.querySelector("button").addEventListener("click", function () {
        var number = !head.classList.contains("text");
        // Numbers begin with the largest, names with the first.
        var before = head.getAttribute("aria-sort");
        var up = before ? before === "descending" : !number;
        Array.prototype.forEach.call(heads, function (h) { h.removeAttribute("aria-sort"); });
        head.setAttribute("aria-sort", up ? "ascending" : "descending");
        sort(table, at, up, number);
      });
    });
  };
  window.longladderSearch = function (input) {
    var body = document.getElementById(input.getAttribute("data-for")).tBodies[0];
    var told = input.closest(".tools").querySelector("output");
    var all = told.textContent;
    input.addEventListener("input", function () {
      var words = input.value.toLowerCase().split(/\s+/).filter(Boolean);
      var left = 0;
      Array.prototype.forEach.call(body.rows, function (row) {
        var text = row.textContent.toLowerCase();
        row.hidden = !words.every(function (word) { return text.indexOf(word) >= 0; });
        if (!row.hidden) left += 1;
      });
      told.textContent = words.length ? left + " of " + body.rows.length + " rows" : all;
    });
  };
})();
