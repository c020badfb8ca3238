// The desk in the browser: what is pressed, typed and pointed at is told to the server, whose answers
// come back as parts of the page; the address holds the state. Nothing is computed here. What shiny
// tells of itself it tells by jQuery's events.
"use strict";
(function () {
  var key = new URLSearchParams(location.search).get("key") || "";
  var byId = document.getElementById.bind(document);
  var asked = 0;
  var picked = -1;
  var fresh = null;

  function tell(name, value) {
    asked += 1;
    value.nonce = asked;
    Shiny.setInputValue(name, value, {priority: "event"});
  }
  function act(name, more) {
    tell("act", Object.assign({act: name}, more || {}));
  }
  function state() {
    try { return decodeURIComponent(location.hash.slice(1)); } catch (e) { return ""; }
  }

  // --- the state: pushed on each change, read again on back, forward and reload -------------------
  function here() { tell("address", {key: key, state: state()}); }
  window.addEventListener("popstate", function () {
    // A link within the page is no state.
    if (/^#(step-|question$|$)/.test(location.hash) && location.hash !== "") return;
    here();
  });
  jQuery(document).on("shiny:connected", here);

  // --- losing the connection, and coming back ----------------------------------------------------
  jQuery(document).on("shiny:disconnected", function () {
    var lost = byId("lost");
    lost.textContent = "The connection to the desk is lost; what is on it stays in the address. " +
      "Trying again \u2026";
    lost.hidden = false;
    window.setInterval(function () {
      fetch(location.pathname + location.search, {cache: "no-store"}).then(function (answer) {
        if (answer.ok) location.reload();
      }).catch(function () {});
    }, 2000);
  });

  // --- clicks -------------------------------------------------------------------------------------
  function of(button) {
    var data = button.dataset;
    var more = {};
    if (data.step) more.step = Number(data.step);
    if (data.at) more.at = Number(data.at);
    if (data.item) more.item = data.item;
    return more;
  }
  function step(id) { return byId("step-" + id); }
  // The picture of a step as it is drawn; one out of sight may be of an older answer.
  function drawn(id) { return step(id).querySelector("figure:not(.away) img"); }
  // A button says for a moment what came of it.
  function told(button, word) {
    var before = button.dataset.name = button.dataset.name || button.textContent;
    button.textContent = word;
    window.setTimeout(function () { button.textContent = before; }, 1200);
  }
  function copied(button, promise) {
    promise.then(function () { told(button, "Copied"); },
                 function () { told(button, "Not allowed here"); });
  }
  function copy(text, button) {
    if (navigator.clipboard) copied(button, navigator.clipboard.writeText(text));
    else told(button, "Not allowed here");
  }
  // The figure as the picture it is, for a slide or a message.
  function copyFigure(image, button) {
    if (!image) return told(button, "No figure");
    if (!navigator.clipboard || !window.ClipboardItem) return told(button, "Not allowed here");
    var canvas = document.createElement("canvas");
    canvas.width = image.naturalWidth;
    canvas.height = image.naturalHeight;
    canvas.getContext("2d").drawImage(image, 0, 0);
    copied(button, navigator.clipboard.write([new ClipboardItem({
      "image/png": new Promise(function (give) { canvas.toBlob(give, "image/png"); })
    })]));
  }
  function tableText(article) {
    return Array.prototype.map.call(article.querySelectorAll(".tables table"), function (table) {
      return Array.prototype.map.call(table.rows, function (row) {
        return Array.prototype.map.call(row.cells, function (cell) {
          return cell.textContent.trim();
        }).join("\t");
      }).join("\n");
    }).join("\n\n");
  }
  var own = {
    put: function (button) {
      var question = byId("question");
      question.value = (question.value.trim() + " " + button.dataset.text).trim();
      question.focus();
    },
    copy_sentence: function (button) {
      var said = step(button.dataset.step).querySelector("h3");
      copy(said ? said.textContent : "", button);
    },
    copy_table: function (button) { copy(tableText(step(button.dataset.step)), button); },
    copy_figure: function (button) {
      copyFigure(drawn(button.dataset.step), button);
    },
    save_figure: function (button) {
      var image = drawn(button.dataset.step);
      if (!image) return told(button, "No figure");
      var link = document.createElement("a");
      link.href = image.src;
      link.download = "answer-" + button.dataset.step + ".png";
      link.click();
    },
    undo: function () { history.back(); },
    menu_shut: function () { shutMenu(true); },
    form: function (button) {
      var open = button.getAttribute("aria-expanded") !== "true";
      button.setAttribute("aria-expanded", open ? "true" : "false");
      act("form", {text: byId("question").value});
    },
    form_say: function () { act("form_say", filled()); },
    form_ask: function () { act("form_ask", filled()); },
    keep_open: function (button) {
      var form = step(button.dataset.step).querySelector(".keeping");
      form.hidden = !form.hidden;
      if (!form.hidden) form.elements.title.focus();
    },
    keep_typed: function (button) {
      var form = step(button.dataset.step).querySelector(".keeping");
      act("keep", {step: Number(button.dataset.step), title: form.elements.title.value,
                   comment: form.elements.comment.value});
      form.hidden = true;
    },
    define: function () { act("define", defined()); },
    ask_typed: askTyped,
    hold_typed: holdTyped
  };
  document.addEventListener("click", function (event) {
    var button = event.target.closest("button[data-act]");
    if (!button) {
      var cell = event.target.closest(".tables[data-rows] tbody td");
      var marked = window.getSelection();
      // Marking a text to copy it is no pointing.
      if (cell && !(marked.type === "Range" && cell.contains(marked.anchorNode))) pointCell(cell);
      else if (!event.target.closest("#menu") && !event.target.closest("figure")) shutMenu();
      return;
    }
    event.preventDefault();
    var name = button.dataset.act;
    if (own[name]) return own[name](button);
    if (name.indexOf("_row") > 0 || name === "hold_not") shutMenu();
    act(name, of(button));
  });
  document.addEventListener("change", function (event) {
    if (event.target.dataset && event.target.dataset.act === "form_study")
      act("form_study", {text: event.target.value});
    if (event.target.dataset && event.target.dataset.act === "picture")
      act("picture", {step: Number(event.target.dataset.step), text: event.target.value});
  });

  // --- asking -------------------------------------------------------------------------------------
  function filled() {
    var form = byId("filling");
    var values = {};
    Array.prototype.forEach.call(form.elements, function (field) {
      if (!field.name || field.name === "study") return;
      values[field.name] = field.type === "checkbox" ? (field.checked ? "yes" : "") : field.value;
    });
    return {study: form.dataset.study, values: values};
  }
  function askTyped() {
    var question = byId("question").value.trim();
    shutChoices();
    if (question) act("ask", {text: question});
  }
  function holdTyped() {
    var hold = byId("hold").value.trim();
    if (hold) act("hold", {text: hold});
  }
  // Enter in a form of one field.
  document.addEventListener("submit", function (event) {
    event.preventDefault();
    if (event.target.id === "asking") askTyped();
    if (event.target.id === "holding") holdTyped();
  });

  // --- completion ---------------------------------------------------------------------------------
  var waiting;
  function defined() {
    var fields = byId("defining").elements;
    return {name: fields.name.value.trim(), formula: fields.formula.value.trim(),
            kind: fields.kind.value};
  }
  document.addEventListener("input", function (event) {
    if (event.target.form && event.target.form.id === "defining") {
      window.clearTimeout(waiting);
      waiting = window.setTimeout(function () { tell("defining", defined()); }, 250);
    }
    if (event.target.id !== "question") return;
    window.clearTimeout(waiting);
    waiting = window.setTimeout(function () {
      tell("typed", {text: event.target.value});
    }, 120);
  });
  function shutChoices() {
    window.clearTimeout(waiting);
    byId("choices").hidden = true;
    byId("question").setAttribute("aria-expanded", "false");
    byId("question").removeAttribute("aria-activedescendant");
    picked = -1;
  }
  function take(item) {
    byId("question").value = item.dataset.text + " ";
    shutChoices();
    byId("question").focus();
  }
  function pick(at) {
    var items = byId("choices").children;
    if (!items.length) return;
    picked = (at + items.length) % items.length;
    Array.prototype.forEach.call(items, function (item, i) {
      item.setAttribute("aria-selected", i === picked ? "true" : "false");
    });
    byId("question").setAttribute("aria-activedescendant", items[picked].id);
  }
  document.addEventListener("mousedown", function (event) {
    var item = event.target.closest && event.target.closest("#choices li");
    if (!item) return;
    event.preventDefault();
    take(item);
  });
  document.addEventListener("keydown", function (event) {
    if (event.target.id === "question" && !byId("choices").hidden) {
      if (event.key === "ArrowDown") { event.preventDefault(); pick(picked + 1); }
      else if (event.key === "ArrowUp") { event.preventDefault(); pick(picked - 1); }
      else if (event.key === "Tab" && !event.shiftKey) {
        event.preventDefault();
        take(byId("choices").children[Math.max(picked, 0)]);
      } else if (event.key === "Enter" && picked >= 0) {
        event.preventDefault();
        take(byId("choices").children[picked]);
      } else if (event.key === "Escape") shutChoices();
      return;
    }
    if (event.key === "Escape") return shutMenu(true);
    // A table's rows are pointed at by the keyboard too.
    var cell = event.target.closest && event.target.closest(".tables[data-rows] tbody td");
    if (cell && (event.key === "Enter" || event.key === " ")) {
      event.preventDefault();
      pointCell(cell);
    }
  });
  document.addEventListener("focusout", function (event) {
    if (event.target.id === "question") window.setTimeout(shutChoices, 150);
  });

  // --- pointing -----------------------------------------------------------------------------------
  var back = null;
  var at = {x: 40, y: 40};
  document.addEventListener("mousedown", function (event) {
    at = {x: event.clientX, y: event.clientY};
  }, true);
  function pointCell(cell) {
    var box = cell.getBoundingClientRect();
    at = {x: box.left + 20, y: box.bottom};
    back = cell;
    var tables = cell.closest(".tables");
    var head = cell.closest("table").tHead.rows[0].cells[cell.cellIndex];
    act("point", {step: Number(tables.dataset.step),
                  row: Number(cell.parentNode.dataset.row || cell.parentNode.sectionRowIndex + 1),
                  column: head.dataset.name || null});
  }
  function shutMenu(refocus) {
    if (byId("menu").hidden) return;
    byId("menu").hidden = true;
    if (refocus && back) back.focus();
  }

  function start() {
    Shiny.addCustomMessageHandler("address", function (message) {
      var hash = message.state ? "#" + encodeURIComponent(message.state) : "";
      if (location.hash !== hash)
        history.pushState(null, "", location.pathname + location.search + hash);
    });
    Shiny.addCustomMessageHandler("trail", function (message) {
      var trail = byId("trail");
      var keep = {};
      message.steps.forEach(function (id, i) {
        keep[id] = true;
        var article = step(id);
        if (!article) return;
        if (trail.children[i] !== article) trail.insertBefore(article, trail.children[i] || null);
        article.hidden = false;
        article.classList.toggle("shut", message.shut[i]);
        article.classList.toggle("beside", message.beside[i]);
      });
      Array.prototype.forEach.call(trail.children, function (article) {
        if (!keep[article.dataset.step]) article.hidden = true;
      });
    });
    Shiny.addCustomMessageHandler("asked", function (message) {
      byId("question").value = "";
      shutMenu();
      fresh = String(message.step);
    });
    Shiny.addCustomMessageHandler("held", function (message) { byId("hold").value = message.text; });
    Shiny.addCustomMessageHandler("picture", function (message) {
      step(message.step).querySelector("select[data-act=picture]").value = message.picture;
    });
    Shiny.addCustomMessageHandler("book", function (message) {
      document.querySelector("header h1").textContent = message.title;
      document.querySelector("header p").textContent = message.words;
      byId("question").placeholder = message.hint;
    });
    Shiny.addCustomMessageHandler("question", function (message) {
      byId("question").value = message.text;
      byId("question").focus();
    });
    Shiny.addCustomMessageHandler("choices", function (message) {
      var list = byId("choices");
      // Typing has gone on since.
      if (message.text !== byId("question").value) return;
      list.textContent = "";
      message.found.forEach(function (one, i) {
        var item = document.createElement("li");
        item.id = "choice-" + i;
        item.setAttribute("role", "option");
        item.dataset.text = one.text;
        var what = document.createElement("span");
        what.className = "kicker";
        what.textContent = one.what;
        item.append(one.phrase + " ", what);
        list.appendChild(item);
      });
      list.hidden = !message.found.length;
      byId("question").setAttribute("aria-expanded", list.hidden ? "false" : "true");
      picked = -1;
    });
    Shiny.addCustomMessageHandler("menu", function (message) {
      var menu = byId("menu");
      menu.innerHTML = message.html;
      menu.hidden = false;
      var wide = menu.offsetWidth, high = menu.offsetHeight;
      menu.style.left = Math.max(8, Math.min(at.x, window.innerWidth - wide - 8)) + "px";
      menu.style.top = Math.max(8, Math.min(at.y, window.innerHeight - high - 8)) + "px";
      var first = menu.querySelector("button");
      if (first) first.focus();
    });
  }
  // --- figures in sight -----------------------------------------------------------------------------
  // Only what can be seen, or soon will be, is drawn: shiny lets what is not displayed wait.
  function sight(figure, seen) {
    if (figure.classList.contains("away") !== seen) return;
    figure.classList.toggle("away", !seen);
    jQuery(figure).trigger(seen ? "shown" : "hidden");
  }
  var watch = window.IntersectionObserver ? new IntersectionObserver(function (entries) {
    entries.forEach(function (entry) { sight(entry.target, entry.isIntersecting); });
  }, {rootMargin: "300px"}) : null;
  function figures(body) {
    body.querySelectorAll("figure.away").forEach(function (figure) {
      if (watch) watch.observe(figure); else sight(figure, true);
    });
  }

  // Rows and heads bear what the server knows them by, before anything is sorted.
  jQuery(document).on("shiny:value", function (event) {
    if (!/^body_/.test(event.name)) return;
    window.setTimeout(function () {
      var body = byId(event.name);
      if (!body) return;
      tables(body);
      figures(body);
      // What was just asked is looked at, once it is there.
      var article = body.closest(".step");
      if (article && article.dataset.step === fresh && body.querySelector("h3, .failed")) {
        article.scrollIntoView({block: "start"});
        fresh = null;
      }
    }, 0);
  });
  function tables(body) {
    body.querySelectorAll(".tables[data-rows]").forEach(function (block) {
      var all = block.querySelectorAll("table.sorts");
      var table = all[all.length - 1];
      // Further tables come first, and are not of the answer's rows.
      if (all.length > 1) Array.prototype.slice.call(all, 0, -1).forEach(function (other) {
        other.classList.add("further");
      });
      if (!table) return;
      Array.prototype.forEach.call(table.tBodies[0].rows, function (row, i) {
        row.dataset.row = i + 1;
        if (row.cells.length) {
          row.cells[0].tabIndex = 0;
          row.cells[0].setAttribute("aria-haspopup", "menu");
        }
      });
    });
    body.querySelectorAll("table.sorts").forEach(window.longladderSorts);
    body.querySelectorAll("input[data-for]").forEach(window.longladderSearch);
  }
  // On a narrow screen the book stands below, closed.
  if (window.matchMedia("(max-width: 900px)").matches)
    document.querySelector("aside details").removeAttribute("open");
  function ready() {
    if (window.Shiny && Shiny.addCustomMessageHandler) start();
    else window.setTimeout(ready, 10);
  }
  ready();
})();
