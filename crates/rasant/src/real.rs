//! Square roots and rounding where there is no standard library: by `libm`, which gives
//! the same bits.

/// What numbers have of the standard library.
pub(crate) trait Real: Sized {
    fn sqrt(self) -> Self;
    fn floor(self) -> Self;
    fn round(self) -> Self;
    fn fract(self) -> Self;
    fn rem_euclid(self, other: Self) -> Self;
}

macro_rules! real {
    ($Number:ty: $sqrt:ident $floor:ident $round:ident $trunc:ident $fmod:ident) => {
        impl Real for $Number {
            fn sqrt(self) -> Self {
                libm::$sqrt(self)
            }
            fn floor(self) -> Self {
                libm::$floor(self)
            }
            fn round(self) -> Self {
                libm::$round(self)
            }
            fn fract(self) -> Self {
                self - libm::$trunc(self)
            }
            fn rem_euclid(self, other: Self) -> Self {
                let rest = libm::$fmod(self, other);
                if rest < 0.0 { rest + other.abs() } else { rest }
            }
        }
    };
}

real!(f32: sqrtf floorf roundf truncf fmodf);
real!(f64: sqrt floor round trunc fmod);
