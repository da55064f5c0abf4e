//! The window itself.

use std::rc::Rc;
use std::time::{Duration, Instant};

use rasant::input::WheelTurn;
use rasant::{DeviceEvent, GameLoop, Press};
use winit::application::ApplicationHandler;
use winit::dpi::LogicalSize;
use winit::event::{DeviceId, ElementState, MouseScrollDelta, WindowEvent};
use winit::event_loop::{ActiveEventLoop, ControlFlow, EventLoop};
use winit::keyboard::PhysicalKey;
use winit::window::{CursorGrabMode, Window, WindowId};

use crate::canvas::Canvas;
use crate::{Failure, Game, SIZE, Setup, keys, run_frame};

/// The time between two frames.
const FRAME: Duration = Duration::from_micros(8_333);

type Surface = softbuffer::Surface<Rc<Window>, Rc<Window>>;

pub fn play(game: &mut dyn Game, setup: Setup) -> Result<u32, Failure> {
    let events = EventLoop::new()?;
    let mut player = Player::new(game, setup)?;
    events.run_app(&mut player)?;
    match player.failure {
        Some(failure) => Err(failure),
        None => Ok(player.drawn),
    }
}

/// The window with its game.
struct Player<'a> {
    game: &'a mut dyn Game,
    setup: Setup,
    loops: Vec<GameLoop>,
    window: Option<(Rc<Window>, Surface)>,
    title: String,
    start: Instant,
    last: Instant,
    drawn: u32,
    failure: Option<Failure>,
    /// True if the game is seen in three dimensions.
    looks_about: bool,
    /// True if the cursor is locked in the window and its motion looks around.
    locked: bool,
    #[cfg(feature = "gamepad")]
    pads: Option<gilrs::Gilrs>,
}

impl<'a> Player<'a> {
    fn new(game: &'a mut dyn Game, setup: Setup) -> Result<Self, Failure> {
        let now = Instant::now();
        Ok(Self {
            game,
            loops: setup.loops()?,
            title: setup.title.clone(),
            setup,
            window: None,
            start: now,
            last: now,
            drawn: 0,
            failure: None,
            looks_about: false,
            locked: false,
            #[cfg(feature = "gamepad")]
            pads: gilrs::Gilrs::new().ok(),
        })
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
        let now = self.start.elapsed();
        self.loops.iter_mut().for_each(|player| player.event(now, event));
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
        run_frame(self.game, &mut self.loops, self.last - self.start);
        let Some((window, surface)) = &mut self.window else { return Ok(()) };
        let size = window.inner_size();
        let (Some(width), Some(height)) = (size.width.try_into().ok(), size.height.try_into().ok()) else {
            return Ok(());
        };
        surface.resize(width, height)?;
        let Some(mut canvas) = Canvas::new((size.width, size.height)) else { return Ok(()) };
        self.game.draw(&mut canvas, self.loops.first().map_or(1.0, GameLoop::blend));
        if let Some(title) = canvas.title.take().filter(|title| *title != self.title) {
            window.set_title(&title);
            self.title = title;
        }
        self.looks_about = canvas.is_in_space();
        let picture = canvas.finish();
        let mut buffer = surface.buffer_mut()?;
        for (pixel, colour) in buffer.iter_mut().zip(picture.pixels()) {
            *pixel = u32::from_be_bytes([0, colour.red(), colour.green(), colour.blue()]);
        }
        buffer.present()?;
        self.drawn += 1;
        Ok(())
    }
}

impl ApplicationHandler for Player<'_> {
    fn resumed(&mut self, events: &ActiveEventLoop) {
        let open = || -> Result<_, Failure> {
            let attributes = Window::default_attributes()
                .with_title(&self.title)
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
                if state == ElementState::Pressed && !self.locked && self.looks_about {
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
                if self.setup.frames.is_some_and(|frames| self.drawn >= frames) {
                    events.exit();
                }
            }
            _ => {}
        }
    }
}
