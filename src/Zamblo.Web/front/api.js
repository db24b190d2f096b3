// Requests to the server. Every error becomes an Error whose message is a sentence for a person.
const token = () => document.querySelector('meta[name="csrf"]').content;

export async function call(method, url, body, options = {}) {
  const isRaw = body instanceof Blob;
  let response;
  try {
    response = await fetch(url, {
      method,
      body: body === undefined ? undefined : isRaw ? body : JSON.stringify(body),
      headers: {
        "X-Csrf-Token": token(),
        ...(body === undefined ? {} : { "Content-Type": isRaw ? "application/octet-stream" : "application/json" }),
      },
      ...options,
    });
  } catch {
    throw new Error("The server does not answer. Check that Zamblo is still running, then try again; nothing here is lost.");
  }
  const type = response.headers.get("Content-Type") ?? "";
  const data = type.includes("json") ? await response.json() : null;
  if (!response.ok) {
    const error = new Error(data?.error ?? `The server answered with an error (${response.status}).`);
    error.status = response.status;
    throw error;
  }
  return data;
}

export const get = (url) => call("GET", url);
export const post = (url, body = {}) => call("POST", url, body);
export const patch = (url, body) => call("PATCH", url, body);
export const remove = (url) => call("DELETE", url);

// Sends a file with progress; fetch cannot report it.
export function upload(blob, name, onProgress, address = `/api/uploads?name=${encodeURIComponent(name)}`) {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", address);
    request.setRequestHeader("X-Csrf-Token", token());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (e) => e.lengthComputable && onProgress(e.loaded / e.total);
    request.onerror = () => reject(new Error("The upload broke off. Check that Zamblo is still running, then try again."));
    request.onload = () => {
      let data = null;
      try {
        data = JSON.parse(request.responseText);
      } catch {
        /* no body */
      }
      if (request.status < 300) resolve(data);
      else reject(new Error(data?.error ?? `The server answered with an error (${request.status}).`));
    };
    request.send(blob);
  });
}

export function toggleTheme() {
  const night = document.documentElement.dataset.theme !== "night";
  document.documentElement.dataset.theme = night ? "night" : "day";
  localStorage.setItem("theme", night ? "night" : "day");
  document.dispatchEvent(new Event("themechange"));
}

export function applyTheme() {
  const usual = matchMedia("(prefers-color-scheme: dark)").matches ? "night" : "day";
  document.documentElement.dataset.theme = localStorage.getItem("theme") ?? usual;
}
