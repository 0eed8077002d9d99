// A figure that moves: its frames one after the other, at a speed, or one at a time.
function paintTrace(context, trace, frame, across, up) {
  const { layer } = trace, [first, end] = spanOf(layer, frame);
  if (trace.mode === "lines") {
    context.strokeStyle = trace.line.color;
    context.lineWidth = trace.line.width;
    context.lineJoin = "round";
    context.beginPath();
    let pen = false;
    for (let k = first; k < end; ++k) {
      if (!isThere(layer.x[k]) || !isThere(layer.y[k])) {
        pen = false;
        continue;
      }
      if (pen) context.lineTo(across(layer.x[k]), up(layer.y[k]));
      else context.moveTo(across(layer.x[k]), up(layer.y[k]));
      pen = true;
    }
    context.stroke();
    return;
  }
  const { symbol, size, color, line } = trace.marker, half = size / 2;
  context.fillStyle = context.strokeStyle = color;
  context.lineWidth = line.width;
  for (let k = first; k < end; ++k) {
    if (!isThere(layer.x[k]) || !isThere(layer.y[k])) continue;
    const x = across(layer.x[k]), y = up(layer.y[k]);
    context.beginPath();
    if (symbol === "diamond") {
      for (const [dx, dy] of [[0, -1.3], [1.3, 0], [0, 1.3], [-1.3, 0]]) context.lineTo(x + dx * half, y + dy * half);
      context.fill();
    } else if (symbol === "x-thin") {
      context.moveTo(x - half, y - half);
      context.lineTo(x + half, y + half);
      context.moveTo(x - half, y + half);
      context.lineTo(x + half, y - half);
      context.stroke();
    } else {
      context.arc(x, y, half, 0, 2 * Math.PI);
      if (symbol === "circle") context.fill();
      else context.stroke();
    }
  }
}

function button(text, label, act) {
  const made = document.createElement("button");
  made.type = "button";
  made.textContent = text;
  made.setAttribute("aria-label", label);
  made.title = label;
  made.addEventListener("click", act);
  return made;
}

class Player {
  constructor(frames, seconds, show) {
    this.frames = frames;
    this.seconds = seconds;
    this.show = show; // (frame, whether it stays)
    this.frame = frames.length - 1;
    this.speed = 1;
    this.element = document.createElement("div");
    this.element.className = "player";
    this.toggle = button("▶", "play", () => (this.playing ? this.pause() : this.play()));
    this.slider = document.createElement("input");
    Object.assign(this.slider, { type: "range", min: 0, max: frames.length - 1, value: this.frame, step: 1 });
    this.slider.setAttribute("aria-label", "frame");
    this.slider.addEventListener("input", () => this.go(Number(this.slider.value), false));
    this.slider.addEventListener("change", () => this.go(Number(this.slider.value), true));
    this.speeds = document.createElement("select");
    this.speeds.setAttribute("aria-label", "speed");
    for (const speed of [0.25, 0.5, 1, 2, 4, 8, 16]) this.speeds.append(new Option(`${speed}×`, speed, speed === 1, speed === 1));
    this.speeds.addEventListener("change", () => this.setSpeed(Number(this.speeds.value)));
    this.name = document.createElement("output");
    this.name.textContent = frames[this.frame];
    this.element.append(button("‹", "one frame back", () => this.step(-1)), this.toggle, button("›", "one frame forward", () => this.step(1)),
      this.slider, this.speeds, this.name);
  }

  go(frame, stays) {
    this.frame = Math.max(0, Math.min(this.frames.length - 1, frame));
    this.slider.value = this.frame;
    this.slider.setAttribute("aria-valuetext", this.frames[this.frame]);
    this.name.textContent = this.frames[this.frame];
    return this.show(this.frame, stays);
  }

  step(by) {
    this.pause();
    return this.go(this.frame + by, true);
  }

  setSpeed(speed) {
    this.speed = speed;
    if (this.playing) this.begin();
  }

  begin() {
    this.since = performance.now();
    this.from = this.frame;
  }

  play() {
    if (this.frame === this.frames.length - 1) this.go(0, false);
    this.playing = true;
    this.toggle.textContent = "❚❚";
    this.toggle.setAttribute("aria-label", "pause");
    this.painted = 0;
    this.began = performance.now();
    this.begin();
    requestAnimationFrame(() => this.tick());
  }

  async tick() {
    if (!this.playing) return;
    const seconds = (performance.now() - this.since) / 1000, last = this.frames.length - 1;
    const frame = Math.min(last, this.from + Math.floor((seconds * this.speed * last) / this.seconds));
    if (frame !== this.frame) {
      ++this.painted;
      await this.go(frame, false);
    }
    if (frame === last) return this.pause();
    requestAnimationFrame(() => this.tick());
  }

  pause() {
    if (!this.playing) return;
    this.playing = false;
    this.lasted = (performance.now() - this.began) / 1000;
    this.toggle.textContent = "▶";
    this.toggle.setAttribute("aria-label", "play");
    return this.go(this.frame, true);
  }
}
