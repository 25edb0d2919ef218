import sharp from 'sharp';

/** A drawn view with large shapes, which its likeness is told by, and fine lines, which its sharpness is told by. */
export async function drawnView(width = 900, height = 600): Promise<Buffer> {
  const lines = Array.from(
    { length: 90 },
    (_, i) => `<path d="M${i * 10} 0v600" stroke="#000" stroke-opacity="${i % 2 ? 0.5 : 0.1}"/>`,
  );
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 900 600">
    <defs><linearGradient id="sky"><stop offset="0" stop-color="#fff"/><stop offset="1" stop-color="#234"/></linearGradient></defs>
    <rect width="900" height="300" fill="url(#sky)"/><rect y="300" width="900" height="300" fill="#243"/>
    <circle cx="260" cy="380" r="190" fill="#dda"/>${lines.join('')}</svg>`;
  return sharp(Buffer.from(svg)).png().toBuffer();
}
