//! Rasant in a window: a trial's level and tuning, played by hand.
//!
//! ```sh
//! cargo run --release --features gamepad                       # play
//! cargo run --release -- --trial ../../demo/trials/bell-loft.toml   # in three dimensions
//! cargo run --release -- --frames 240 --tape t.tape --png t.png   # no window
//! ```
//! The game itself does three things: it gives a `GameLoop` the device events and the
//! frames with their times, ticks the body with each intent that comes back, and draws the pose
//! between the last two ticks.

mod draw;
mod game;
mod keys;
mod space;

use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::time::{Duration, Instant};

use clap::Parser;
use rasant::input::WheelTurn;
use rasant::{DeviceEvent, Press, Tape};
use winit::application::ApplicationHandler;
use winit::dpi::LogicalSize;
use winit::event::{DeviceId, ElementState, MouseScrollDelta, WindowEvent};
use winit::event_loop::{ActiveEventLoop, ControlFlow, EventLoop};
use winit::keyboard::PhysicalKey;
use winit::window::{CursorGrabMode, Window, WindowId};

use game::Playing;

type Failure = Box<dyn std::error::Error>;

/// The size of the window.
const SIZE: (u32, u32) = (1280, 800);

/// The time between two frames.
const FRAME: Duration = Duration::from_micros(8_333);

#[derive(Parser)]
#[command(about = "Plays a trial's level by hand, or replays a tape without a window")]
struct Arguments {
    /// The trial whose level, tuning and start are used. Two dimensions are seen from the side,
    /// three from behind; there a click locks the cursor, and the mouse looks around until Escape
    /// is pressed.
    #[arg(long, default_value = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/trials/gutters.toml"))]
    trial: PathBuf,
    /// The bindings.
    #[arg(long, default_value = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/bindings/keys-and-pad.toml"))]
    bindings: PathBuf,
    /// Replays this tape, or the trial's own script if no file is given.
    #[arg(long)]
    tape: Option<PathBuf>,
    /// Runs this many frames of 1/60 s and stops.
    #[arg(long)]
    frames: Option<u32>,
    /// Draws the last frame into this file, without a window.
    #[arg(long, requires = "frames")]
    png: Option<PathBuf>,
    /// Records the inputs, for `tape` in a trial.
    #[arg(long)]
    record: Option<PathBuf>,
}

fn main() {
    if let Err(error) = run(&Arguments::parse()) {
        eprintln!("error: {error}");
        std::process::exit(2);
    }
}

fn run(arguments: &Arguments) -> Result<(), Failure> {
    let mut game = game::load(&arguments.trial, &arguments.bindings)?;
    if let Some(path) = &arguments.png {
        let frames = arguments.frames.unwrap_or(0);
        game.replay(tape_of(arguments.tape.as_deref(), &*game)?);
        for number in 1..=frames {
            game.frame(Duration::from_nanos(16_666_667 * u64::from(number)));
        }
        game.draw(SIZE)?.save_png(path)?;
        println!("{} frames, {}; wrote {}", frames, game.in_words(), path.display());
        return Ok(());
    }
    if arguments.tape.is_some() {
        game.replay(tape_of(arguments.tape.as_deref(), &*game)?);
    }
    let events = EventLoop::new()?;
    let mut player = Player::new(game, arguments.frames);
    events.run_app(&mut player)?;
    if let Some(failure) = player.failure {
        return Err(failure);
    }
    println!("{} frames, {}", player.drawn, player.game.in_words());
    if let Some(path) = &arguments.record {
        std::fs::write(path, player.game.recorded().to_text(player.game.rate()))?;
        println!("wrote {}", path.display());
    }
    Ok(())
}

fn tape_of(path: Option<&Path>, game: &dyn Playing) -> Result<Tape, Failure> {
    let Some(path) = path else { return Ok(game.scripted()) };
    let text = std::fs::read_to_string(path).map_err(|error| format!("{}: {error}", path.display()))?;
    let (tape, rate) = Tape::from_text(&text).map_err(|error| format!("{}: {error}", path.display()))?;
    if rate == game.rate() {
        Ok(tape)
    } else {
        Err(format!("{}: it is of {rate} ticks a second, the trial of {}", path.display(), game.rate())
            .into())
    }
}

type Surface = softbuffer::Surface<Rc<Window>, Rc<Window>>;

/// The window with its game.
struct Player {
    game: Box<dyn Playing>,
    window: Option<(Rc<Window>, Surface)>,
    start: Instant,
    last: Instant,
    frames: Option<u32>,
    drawn: u32,
    failure: Option<Failure>,
    /// Whether the cursor is locked in the window and its motion looks around.
    locked: bool,
    #[cfg(feature = "gamepad")]
    pads: Option<gilrs::Gilrs>,
}

impl Player {
    fn new(game: Box<dyn Playing>, frames: Option<u32>) -> Self {
        let now = Instant::now();
        Self {
            game,
            window: None,
            start: now,
            last: now,
            frames,
            drawn: 0,
            failure: None,
            locked: false,
            #[cfg(feature = "gamepad")]
            pads: gilrs::Gilrs::new().ok(),
        }
    }

    /// Locks the cursor in the window and hides it, or releases it. Where the platform cannot lock
    /// it, it is confined to the window.
    fn lock_cursor(&mut self, locked: bool) {
        let Some((window, _)) = &self.window else { return };
        let grabbed = if locked {
            let held = window.set_cursor_grab(CursorGrabMode::Locked);
            held.or_else(|_| window.set_cursor_grab(CursorGrabMode::Confined))
        } else {
            window.set_cursor_grab(CursorGrabMode::None)
        };
        self.locked = locked && grabbed.is_ok();
        window.set_cursor_visible(!self.locked);
    }

    /// Forwards an event with its time.
    fn forward(&mut self, event: DeviceEvent) {
        self.game.event(self.start.elapsed(), event);
    }

    #[cfg(feature = "gamepad")]
    fn forward_pads(&mut self) {
        while let Some(event) = self.pads.as_mut().and_then(gilrs::Gilrs::next_event) {
            if let Some(event) = keys::of_pad(&event) {
                self.forward(event);
            }
        }
    }

    fn draw(&mut self) -> Result<(), Failure> {
        #[cfg(feature = "gamepad")]
        self.forward_pads();
        self.last = Instant::now();
        self.game.frame(self.last - self.start);
        let Some((window, surface)) = &mut self.window else { return Ok(()) };
        let size = window.inner_size();
        let (Some(width), Some(height)) = (size.width.try_into().ok(), size.height.try_into().ok()) else {
            return Ok(());
        };
        surface.resize(width, height)?;
        let picture = self.game.draw((size.width, size.height))?;
        let mut buffer = surface.buffer_mut()?;
        for (pixel, colour) in buffer.iter_mut().zip(picture.pixels()) {
            *pixel = u32::from_be_bytes([0, colour.red(), colour.green(), colour.blue()]);
        }
        buffer.present()?;
        self.drawn += 1;
        Ok(())
    }
}

impl ApplicationHandler for Player {
    fn resumed(&mut self, events: &ActiveEventLoop) {
        let open = || -> Result<_, Failure> {
            let attributes = Window::default_attributes()
                .with_title("Rasant")
                .with_inner_size(LogicalSize::new(SIZE.0, SIZE.1));
            let window = Rc::new(events.create_window(attributes)?);
            let context = softbuffer::Context::new(window.clone())?;
            let surface = softbuffer::Surface::new(&context, window.clone())?;
            Ok((window, surface))
        };
        match open() {
            Ok(opened) => {
                opened.0.request_redraw();
                self.window = Some(opened);
            }
            Err(failure) => {
                self.failure = Some(failure);
                events.exit();
            }
        }
    }

    /// Asks for frames at an even rate, because nothing here waits for the screen.
    fn about_to_wait(&mut self, events: &ActiveEventLoop) {
        let next = self.last + FRAME;
        if Instant::now() < next {
            events.set_control_flow(ControlFlow::WaitUntil(next));
        } else if let Some((window, _)) = &self.window {
            window.request_redraw();
        }
    }

    fn device_event(&mut self, _: &ActiveEventLoop, _: DeviceId, event: winit::event::DeviceEvent) {
        if let winit::event::DeviceEvent::MouseMotion { delta: (x, y) } = event
            && self.locked
        {
            self.forward(DeviceEvent::PointerMoved { x: x as f32, y: y as f32 });
        }
    }

    fn window_event(&mut self, events: &ActiveEventLoop, _: WindowId, event: WindowEvent) {
        match event {
            WindowEvent::CloseRequested => events.exit(),
            WindowEvent::Focused(false) => {
                self.lock_cursor(false);
                self.forward(DeviceEvent::FocusLost);
            }
            WindowEvent::KeyboardInput { event, .. } if !event.repeat => {
                let press = if event.state == ElementState::Pressed { Press::Down } else { Press::Up };
                if let PhysicalKey::Code(code) = event.physical_key
                    && let Some(key) = keys::of_code(code)
                {
                    if key.code() == "Escape" && event.state == ElementState::Pressed {
                        // The first press releases the cursor, the next one quits.
                        if self.locked {
                            return self.lock_cursor(false);
                        }
                        return events.exit();
                    }
                    self.forward(DeviceEvent::Key(key, press));
                }
            }
            WindowEvent::MouseWheel { delta, .. } => {
                let up = match delta {
                    MouseScrollDelta::LineDelta(_, lines) => lines,
                    MouseScrollDelta::PixelDelta(pixels) => pixels.y as f32,
                };
                if up != 0.0 {
                    let turn = if up > 0.0 { WheelTurn::Up } else { WheelTurn::Down };
                    self.forward(DeviceEvent::Wheel(turn));
                }
            }
            WindowEvent::MouseInput { state, button, .. } => {
                // A click into a three-dimensional level starts to look around.
                if state == ElementState::Pressed && !self.locked && self.game.looks_about() {
                    return self.lock_cursor(true);
                }
                let press = if state == ElementState::Pressed { Press::Down } else { Press::Up };
                if let Some(button) = keys::of_pointer(button) {
                    self.forward(DeviceEvent::Pointer(button, press));
                }
            }
            WindowEvent::RedrawRequested => {
                if let Err(failure) = self.draw() {
                    self.failure = Some(failure);
                    events.exit();
                }
                if self.frames.is_some_and(|frames| self.drawn >= frames) {
                    events.exit();
                }
            }
            _ => {}
        }
    }
}
