// Pictures of what shots show, for the camera's lane. One that is on its way leaves the one before in its place.
export class ShotPictures {
  constructor() {
    this.shown = [];
    // Grows with each that comes: whoever draws looks whether it has.
    this.came = 0;
  }

  // Addresses, one for each shot.
  set(addresses) {
    this.shown = addresses.map((address, i) => {
      const known = this.shown.find((s) => s.address === address);
      if (known) return known;
      const entry = { address, picture: this.shown[i]?.picture ?? null };
      const picture = new Image();
      picture.onload = () => {
        entry.picture = picture;
        this.came++;
      };
      picture.src = address;
      return entry;
    });
    this.came++;
  }

  // As much of a picture as there is room for; gives the width that it takes.
  draw(context, index, x, y, room, height) {
    const picture = this.shown[index]?.picture;
    if (!picture || room < 4) return 0;
    const width = (height * picture.naturalWidth) / picture.naturalHeight;
    context.save();
    context.beginPath();
    context.roundRect(x, y, Math.min(width, room), height, 2);
    context.clip();
    context.drawImage(picture, x, y, width, height);
    context.restore();
    return Math.min(width, room) + 3;
  }
}
