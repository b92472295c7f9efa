//! The simulated camera: a side view, squarely or at a slant, with motion blur, grain, vignetting and JPEG, from shapes in
//! metres that move along given paths. The same seed gives the same film, byte for byte.
//!
//! [`Shoot`] says what stands before the camera and how it is set; [`Shoot::frame`] takes one picture;
//! [`Shoot::truth`] says where the moving things really were.

use rand::rngs::StdRng;
use rand::{Rng, RngExt, SeedableRng};
use tiny_skia::{Color, FillRule, Paint, PathBuilder, Pixmap, Transform};

use crate::{PictureError, Rgb, jpeg};

/// Pictures summed up over the time the shutter is open.
const EXPOSURES: usize = 12;
/// Numbers in the table the grain is drawn from; a prime, so that rows do not repeat.
const GRAINS: usize = 65_521;

/// A colour: red, green, blue.
pub type Colour = [u8; 3];

/// A shape in metres; x to the right, y up. On a mover, measured from its middle.
#[derive(Clone, Debug)]
pub enum Silhouette {
    /// A disc.
    Disc {
        /// Middle in m.
        centre: [f64; 2],
        /// Radius in m.
        radius: f64,
        /// Its colour.
        colour: Colour,
    },
    /// A filled polygon.
    Polygon {
        /// Corners in m.
        corners: Vec<[f64; 2]>,
        /// Its colour.
        colour: Colour,
    },
}

impl Silhouette {
    /// A rectangle from its lower left corner, all in m.
    pub fn rectangle(left: f64, bottom: f64, width: f64, height: f64, colour: Colour) -> Self {
        let (right, top) = (left + width, bottom + height);
        Self::Polygon { corners: vec![[left, bottom], [right, bottom], [right, top], [left, top]], colour }
    }

    /// Its farthest distance from the middle of its mover, in m.
    fn reach(&self) -> f64 {
        match self {
            Self::Disc { centre: [x, y], radius, .. } => x.hypot(*y) + radius,
            Self::Polygon { corners, .. } => corners.iter().map(|[x, y]| x.hypot(*y)).fold(0.0, f64::max),
        }
    }
}

/// Where something is: x and y in m, and its turn in rad, counter-clockwise.
pub type Pose = ([f64; 2], f64);

/// Something that moves.
pub struct Mover {
    /// Its name in the list of true positions.
    pub name: String,
    /// Its shapes, back to front.
    pub shapes: Vec<Silhouette>,
    /// Where it is at a time in s.
    pub path: Box<dyn Fn(f64) -> Pose + Send + Sync>,
}

/// How the camera is set.
#[derive(Clone, Debug)]
pub struct Camera {
    /// Pixels across.
    pub width: usize,
    /// Pixels down.
    pub height: usize,
    /// Metres a pixel spans.
    pub metres_a_pixel: f64,
    /// The point of the scene in the middle of the picture, in m.
    pub aim: [f64; 2],
    /// How far the camera is tilted, in rad.
    pub tilt: f64,
    /// How far it stands to the left of where it would look at the scene squarely, as an angle seen from the aim, in rad.
    pub slant: f64,
    /// How far it stands from its aim, in m; told from the picture only at a slant.
    pub distance: f64,
    /// Frames a second.
    pub rate: f64,
    /// Time the shutter is open, in s.
    pub shutter: f64,
    /// Standard deviation of the grain, as a share of full brightness.
    pub grain: f64,
    /// Share of brightness lost in the corners.
    pub vignetting: f64,
    /// JPEG quality, 1 to 100.
    pub quality: u8,
}

impl Default for Camera {
    fn default() -> Self {
        Self {
            width: 640,
            height: 360,
            metres_a_pixel: 0.01,
            aim: [0.0, 0.0],
            tilt: 0.0,
            slant: 0.0,
            distance: 8.0,
            rate: 60.0,
            shutter: 1.0 / 240.0,
            grain: 0.015,
            vignetting: 0.12,
            quality: 85,
        }
    }
}

/// A film to be taken.
pub struct Shoot {
    /// How the camera is set.
    pub camera: Camera,
    /// What stands still, back to front.
    pub scenery: Vec<Silhouette>,
    /// What moves, back to front.
    pub movers: Vec<Mover>,
    /// What stands still before all that moves.
    pub front: Vec<Silhouette>,
    /// Number of frames.
    pub frames: usize,
}

/// What a camera needs for every frame and makes only once.
pub struct Roll {
    scenery: Pixmap,
    shade: Vec<f32>,
    grains: Vec<f32>,
    seed: u64,
}

impl Camera {
    /// From metres to pixels.
    fn view(&self) -> Transform {
        let scale = (1.0 / self.metres_a_pixel) as f32;
        let degrees = self.tilt.to_degrees() as f32;
        Transform::from_translate(-self.aim[0] as f32, -self.aim[1] as f32)
            .post_scale(scale, -scale)
            .post_rotate(degrees)
            .post_translate(self.width as f32 / 2.0, self.height as f32 / 2.0)
    }

    /// Where a point of the scene lies in the picture, in px. At a slant, by the pinhole model: what lies farther away along the plane of the
    /// motion is seen smaller by its distance.
    pub fn pixel(&self, point: [f64; 2]) -> [f64; 2] {
        let (far, across) = self.slant.sin_cos();
        let (x, y) = (point[0] - self.aim[0], point[1] - self.aim[1]);
        let near = self.distance / (self.distance + x * far) / self.metres_a_pixel;
        let (x, y) = (x * across * near, -y * near);
        let (sin, cos) = self.tilt.sin_cos();
        [x * cos - y * sin + self.width as f64 / 2.0, x * sin + y * cos + self.height as f64 / 2.0]
    }

    /// Time of a frame in s: the middle of its exposure.
    pub fn time(&self, frame: usize) -> f64 {
        frame as f64 / self.rate
    }
}

impl Shoot {
    /// Prepares what all frames share.
    ///
    /// # Errors
    /// [`PictureError::TooLarge`] for a picture no memory is given for.
    pub fn roll(&self, seed: u64) -> Result<Roll, PictureError> {
        let c = &self.camera;
        let mut scenery = Pixmap::new(c.width as u32, c.height as u32).ok_or(PictureError::TooLarge)?;
        scenery.fill(Color::from_rgba8(203, 198, 184, 255));
        for shape in self.scenery.iter().chain(&self.front) {
            paint(&mut scenery, shape, ([0.0, 0.0], 0.0), c);
        }
        let mut random = StdRng::seed_from_u64(seed);
        let grains = (0..GRAINS).map(|_| normal(&mut random) as f32 * 255.0 * c.grain as f32).collect();
        let (mx, my) = (c.width as f32 / 2.0, c.height as f32 / 2.0);
        let corner = mx * mx + my * my;
        let shade = (0..c.width * c.height).map(|i| {
            let (x, y) = ((i % c.width) as f32 + 0.5 - mx, (i / c.width) as f32 + 0.5 - my);
            1.0 - c.vignetting as f32 * (x * x + y * y) / corner
        });
        Ok(Roll { scenery, shade: shade.collect(), grains, seed })
    }

    /// Takes one picture.
    ///
    /// # Errors
    /// [`PictureError::TooLarge`] when there is no memory for it.
    pub fn frame(&self, roll: &Roll, number: usize) -> Result<Rgb, PictureError> {
        let c = &self.camera;
        let size = c.width * c.height;
        let exposures = if c.shutter > 0.0 { EXPOSURES } else { 1 };
        let within = |k: usize| ((k as f64 + 0.5) / exposures as f64 - 0.5) * c.shutter;
        let times: Vec<f64> = (0..exposures).map(|k| c.time(number) + within(k)).collect();
        // Only rows in which something moves change from one exposure to the next.
        let rows = self.rows(&times);
        let part = |bytes: usize| rows.start * c.width * bytes..rows.end * c.width * bytes;
        let mut plate = roll.scenery.clone();
        let mut sum: Vec<u16> = roll.scenery.data().iter().map(|v| u16::from(*v) * exposures as u16).collect();
        sum[part(4)].fill(0);
        for time in times {
            plate.data_mut()[part(4)].copy_from_slice(&roll.scenery.data()[part(4)]);
            self.paint_movers(&mut plate, time);
            for (sum, seen) in sum[part(4)].iter_mut().zip(&plate.data()[part(4)]) {
                *sum += u16::from(*seen);
            }
        }
        let mut random = StdRng::seed_from_u64(roll.seed ^ (number as u64 + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15));
        let mut place = random.random_range(0..GRAINS);
        let share = 1.0 / exposures as f32;
        let mut data = Vec::with_capacity(3 * size);
        for (i, pixel) in sum.chunks_exact(4).enumerate() {
            if i % c.width == 0 {
                place = random.random_range(0..GRAINS);
            }
            place = (place + 1) % GRAINS;
            let grain = roll.grains[place];
            let level = |v: u16| (f32::from(v) * share * roll.shade[i] + grain + 0.5) as u8;
            data.extend([level(pixel[0]), level(pixel[1]), level(pixel[2])]);
        }
        Ok(Rgb { width: c.width, height: c.height, data })
    }

    /// Takes one picture and packs it.
    ///
    /// # Errors
    /// As for [`Self::frame`].
    pub fn jpeg(&self, roll: &Roll, number: usize) -> Result<Vec<u8>, PictureError> {
        jpeg(&self.frame(roll, number)?, self.camera.quality)
    }

    /// True places of all movers in a frame, in px, in the middle of the exposure.
    pub fn truth(&self, number: usize) -> Vec<(&str, [f64; 2])> {
        let t = self.camera.time(number);
        self.movers.iter().map(|m| (m.name.as_str(), self.camera.pixel((m.path)(t).0))).collect()
    }

    /// The rows of the picture that movers touch at any of these times.
    fn rows(&self, times: &[f64]) -> std::ops::Range<usize> {
        let c = &self.camera;
        let (mut top, mut bottom) = (c.height as f64, 0.0_f64);
        for mover in &self.movers {
            let reach = mover.shapes.iter().map(Silhouette::reach).fold(0.0, f64::max);
            for time in times {
                // A box round it, seen from wherever the camera stands.
                let [x, y] = (mover.path)(*time).0;
                for (right, up) in [(-1.0, -1.0), (1.0, -1.0), (-1.0, 1.0), (1.0, 1.0)] {
                    let y = c.pixel([x + right * reach, y + up * reach])[1];
                    top = top.min(y - 2.0);
                    bottom = bottom.max(y + 2.0);
                }
            }
        }
        let end = bottom.ceil().clamp(0.0, c.height as f64) as usize;
        (top.floor().clamp(0.0, c.height as f64) as usize).min(end)..end
    }

    fn paint_movers(&self, plate: &mut Pixmap, time: f64) {
        for mover in &self.movers {
            let pose = (mover.path)(time);
            for shape in &mover.shapes {
                paint(plate, shape, pose, &self.camera);
            }
        }
        for shape in &self.front {
            paint(plate, shape, ([0.0, 0.0], 0.0), &self.camera);
        }
    }
}

/// Corners by which a disc is drawn at a slant.
const ROUND: u32 = 64;

fn paint(plate: &mut Pixmap, shape: &Silhouette, ([x, y], turn): Pose, camera: &Camera) {
    let mut path = PathBuilder::new();
    let (Silhouette::Disc { colour, .. } | Silhouette::Polygon { colour, .. }) = shape;
    let view = if camera.slant == 0.0 {
        match shape {
            Silhouette::Disc { centre: [x, y], radius, .. } => path.push_circle(*x as f32, *y as f32, *radius as f32),
            Silhouette::Polygon { corners, .. } => outline(&mut path, corners.iter().copied()),
        }
        let pose = Transform::from_rotate(turn.to_degrees() as f32).post_translate(x as f32, y as f32);
        pose.post_concat(camera.view())
    } else {
        let (sin, cos) = turn.sin_cos();
        let seen = |[a, b]: [f64; 2]| camera.pixel([x + a * cos - b * sin, y + a * sin + b * cos]);
        match shape {
            Silhouette::Disc { centre: [cx, cy], radius, .. } => {
                let angles = (0..ROUND).map(|i| f64::from(i) / f64::from(ROUND) * std::f64::consts::TAU);
                outline(&mut path, angles.map(|a| seen([cx + radius * a.cos(), cy + radius * a.sin()])));
            }
            Silhouette::Polygon { corners, .. } => outline(&mut path, corners.iter().map(|c| seen(*c))),
        }
        Transform::identity()
    };
    let mut how = Paint { anti_alias: true, ..Paint::default() };
    how.set_color_rgba8(colour[0], colour[1], colour[2], 255);
    if let Some(path) = path.finish() {
        plate.fill_path(&path, &how, FillRule::Winding, view, None);
    }
}

fn outline(path: &mut PathBuilder, corners: impl Iterator<Item = [f64; 2]>) {
    for (i, [x, y]) in corners.enumerate() {
        if i == 0 { path.move_to(x as f32, y as f32) } else { path.line_to(x as f32, y as f32) }
    }
    path.close();
}

/// A number of the standard normal distribution (Box and Muller's transformation).
fn normal(random: &mut impl Rng) -> f64 {
    let (a, b): (f64, f64) = (random.random(), random.random());
    (-2.0 * (1.0 - a).ln()).sqrt() * (std::f64::consts::TAU * b).cos()
}
