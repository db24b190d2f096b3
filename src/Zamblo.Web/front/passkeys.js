// Keys that stay on one's device (Web Authentication): made, and shown to sign in. Browsers give them for names only, not for bare addresses.
export const canUsePasskeys = () =>
  window.isSecureContext && Boolean(window.PublicKeyCredential?.parseCreationOptionsFromJSON) && !/^[\d.:[\]]+$/.test(location.hostname);

export async function makePasskey(options) {
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(options);
  return JSON.stringify((await navigator.credentials.create({ publicKey })).toJSON());
}

export async function showPasskey(options) {
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(options);
  return JSON.stringify((await navigator.credentials.get({ publicKey })).toJSON());
}
