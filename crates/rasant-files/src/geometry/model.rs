//! A glTF file, its parts and its numbers, each checked before it is read.

use std::path::{Path, PathBuf};

use gltf::accessor::{DataType, Dimensions};
use gltf::buffer::{Source as BufferSource, View};
use gltf::json::validation::Checked;
use gltf::{Accessor, Document, Gltf};

use crate::{Files, Problem, Source, beside};

/// The maximum number of braces and brackets in a model's JSON. Its parts are some hundred bytes
/// each.
const MOST_PARTS: usize = 2_000_000;
/// The maximum number of numbers in one accessor.
const MOST_ELEMENTS: usize = 20_000_000;

/// Extensions that change the shape of meshes: a file that needs one cannot be read without it.
const SHAPING: [&str; 4] = [
    "KHR_draco_mesh_compression",
    "EXT_meshopt_compression",
    "KHR_meshopt_compression",
    "EXT_mesh_gpu_instancing",
];

pub(super) struct Model {
    pub document: Document,
    buffers: Vec<Vec<u8>>,
    path: PathBuf,
}

impl Model {
    pub fn read(files: &dyn Files, path: &Path) -> Result<Self, Problem> {
        let bytes = files.read_bytes(path)?;
        check_container(&bytes, path)?;
        let parts = json_of(&bytes).iter().filter(|sign| matches!(sign, b'{' | b'[')).count();
        if parts > MOST_PARTS {
            let found = format!("found {parts} objects and lists in its JSON");
            return Err(Problem::of_file(path, found).expecting(format!("at most {MOST_PARTS}")));
        }
        let wrong = |error| broken(&bytes, path, &error);
        let Gltf { document, mut blob } = Gltf::from_slice_without_validation(&bytes).map_err(wrong)?;
        let mut root = document.into_json();
        check_references(&root, path)?;
        // Extensions that do not change the shape of meshes are not needed to read them.
        if let Some(name) = root.extensions_required.iter().find(|name| SHAPING.contains(&name.as_str())) {
            return Err(Problem::of_file(path, format!("it needs the extension {name}"))
                .expecting("a model that is saved without it"));
        }
        root.extensions_required.clear();
        let document = Document::from_json(root).map_err(wrong)?;
        let mut buffers = Vec::new();
        for buffer in document.buffers() {
            let number = buffer.index();
            let wrong = |found: String| Problem::of_file(path, format!("buffer {number}: {found}"));
            let data = match buffer.source() {
                BufferSource::Bin => blob.take().ok_or_else(|| {
                    wrong("there is no binary part in the file".to_owned()).expecting("a .glb with one")
                })?,
                BufferSource::Uri(uri) => match of_uri(uri).map_err(|found| wrong(found).expecting(NAMES))? {
                    Named::Data(bytes) => bytes,
                    Named::File(name) => files.read_bytes(&beside(path, &name))?,
                },
            };
            if data.len() < buffer.length() {
                let found = format!("{} bytes", data.len());
                return Err(wrong(found).expecting(format!("{}", buffer.length())));
            }
            buffers.push(data);
        }
        Ok(Self { document, buffers, path: path.to_owned() })
    }

    pub fn problem(&self, found: impl Into<String>) -> Problem {
        Problem::of_file(&self.path, found)
    }

    /// Vectors of `N` numbers. Normalised integers are converted to fractions.
    pub fn floats<const N: usize>(&self, accessor: &Accessor<'_>) -> Result<Vec<[f32; N]>, Problem> {
        let parts = accessor.dimensions().multiplicity();
        if parts != N || matches!(accessor.dimensions(), Dimensions::Mat2) {
            let found = format!("accessor {} has {parts} numbers per element", accessor.index());
            return Err(self.problem(found).expecting(format!("{N}")));
        }
        let kind = accessor.data_type();
        let size = kind.size();
        let is_fraction = accessor.normalized();
        let read = |bytes: &[u8]| -> [f32; N] {
            std::array::from_fn(|part| number(&bytes[part * size..], kind, is_fraction) as f32)
        };
        let numbers: Vec<[f32; N]> = self.elements(accessor)?.chunks_exact(size * N).map(read).collect();
        match numbers.iter().position(|numbers| !numbers.iter().all(|number| number.is_finite())) {
            None => Ok(numbers),
            Some(place) => {
                let found = format!("accessor {}: number {place} is {:?}", accessor.index(), numbers[place]);
                Err(self.problem(found).expecting("finite numbers"))
            }
        }
    }

    /// Whole numbers.
    pub fn indices(&self, accessor: &Accessor<'_>) -> Result<Vec<u32>, Problem> {
        let kind = accessor.data_type();
        if accessor.dimensions() != Dimensions::Scalar || kind == DataType::F32 {
            return Err(self
                .problem(format!("accessor {} does not contain indices", accessor.index()))
                .expecting("one whole number per element"));
        }
        Ok(self
            .elements(accessor)?
            .chunks_exact(kind.size())
            .map(|bytes| number(bytes, kind, false) as u32)
            .collect())
    }

    /// The bytes of an accessor's elements, one after the other.
    fn elements(&self, accessor: &Accessor<'_>) -> Result<Vec<u8>, Problem> {
        let (count, size) = (accessor.count(), accessor.size());
        let name = format!("accessor {}", accessor.index());
        if count > MOST_ELEMENTS {
            let found = format!("{name}: found {count} elements");
            return Err(self.problem(found).expecting(format!("at most {MOST_ELEMENTS}")));
        }
        let mut elements = match accessor.view() {
            Some(view) => self.strided(&view, accessor.offset(), count, size, &name)?,
            None => vec![0; size * count],
        };
        if let Some(sparse) = accessor.sparse() {
            let (indices, values) = (sparse.indices(), sparse.values());
            let kind = match indices.index_type() {
                gltf::accessor::sparse::IndexType::U8 => DataType::U8,
                gltf::accessor::sparse::IndexType::U16 => DataType::U16,
                gltf::accessor::sparse::IndexType::U32 => DataType::U32,
            };
            let places =
                self.strided(&indices.view(), indices.offset(), sparse.count(), kind.size(), &name)?;
            let given = self.strided(&values.view(), values.offset(), sparse.count(), size, &name)?;
            for (place, value) in places.chunks_exact(kind.size()).zip(given.chunks_exact(size)) {
                let place = number(place, kind, false) as usize;
                let Some(element) = elements.chunks_exact_mut(size).nth(place) else {
                    let found = format!("{name}: a sparse value for element {place}");
                    return Err(self.problem(found).expecting(format!("one below {count}")));
                };
                element.copy_from_slice(value);
            }
        }
        Ok(elements)
    }

    /// The bytes of elements in a view, all of which are inside its buffer.
    fn strided(
        &self,
        view: &View<'_>,
        offset: usize,
        count: usize,
        size: usize,
        name: &str,
    ) -> Result<Vec<u8>, Problem> {
        let stride = view.stride().unwrap_or(size).max(size);
        let end = view.offset().checked_add(view.length());
        let bytes = end.and_then(|end| self.buffers[view.buffer().index()].get(view.offset()..end));
        let needed = count.checked_sub(1).map_or(Some(0), |last| {
            stride.checked_mul(last).and_then(|last| last.checked_add(size))?.checked_add(offset)
        });
        match (bytes, needed) {
            (Some(bytes), Some(needed)) if needed <= bytes.len() => Ok((0..count)
                .flat_map(|number| &bytes[offset + number * stride..][..size])
                .copied()
                .collect()),
            _ => {
                let found = format!("{name}: {count} elements of {size} bytes reach beyond their buffer");
                Err(self.problem(found).expecting("a whole file"))
            }
        }
    }
}

/// One number of an accessor, as specified in section 3.6.2.
fn number(bytes: &[u8], kind: DataType, is_fraction: bool) -> f64 {
    let (number, most): (f64, f64) = match kind {
        DataType::I8 => ((bytes[0] as i8).into(), 127.0),
        DataType::U8 => (bytes[0].into(), 255.0),
        DataType::I16 => (i16::from_le_bytes([bytes[0], bytes[1]]).into(), 32_767.0),
        DataType::U16 => (u16::from_le_bytes([bytes[0], bytes[1]]).into(), 65_535.0),
        DataType::U32 => (u32::from_le_bytes([bytes[0], bytes[1], bytes[2], bytes[3]]).into(), 1.0),
        DataType::F32 => (f32::from_le_bytes([bytes[0], bytes[1], bytes[2], bytes[3]]).into(), 1.0),
    };
    if is_fraction { (number / most).max(-1.0) } else { number }
}

const MAGIC: &[u8] = b"glTF";

/// Checks the header of a binary file.
fn check_container(bytes: &[u8], path: &Path) -> Result<(), Problem> {
    if !bytes.starts_with(MAGIC) {
        return Ok(());
    }
    let word = |at: usize| {
        bytes.get(at..at + 4).map(|word| u32::from_le_bytes([word[0], word[1], word[2], word[3]]))
    };
    let (Some(version), Some(length)) = (word(4), word(8)) else {
        return Err(Problem::of_file(path, format!("found {} bytes", bytes.len())).expecting("a whole file"));
    };
    if version != 2 {
        return Err(Problem::of_file(path, format!("found glTF {version}")).expecting("glTF 2"));
    }
    if length as usize > bytes.len() || (length as usize) < 20 {
        let found = format!("byte 8: found a length of {length} in a file of {} bytes", bytes.len());
        return Err(Problem::of_file(path, found).expecting("a whole file"));
    }
    Ok(())
}

/// Checks what the parser's own validation assumes.
fn check_references(root: &gltf::json::Root, path: &Path) -> Result<(), Problem> {
    let there = root.accessors.len();
    for (mesh, found) in root.meshes.iter().enumerate() {
        for attribute in found.primitives.iter().flat_map(|primitive| primitive.attributes.values()) {
            if attribute.value() >= there {
                let found = format!("mesh {mesh}: an attribute of accessor {}", attribute.value());
                return Err(Problem::of_file(path, found).expecting(format!("one below {there}")));
            }
        }
    }
    let nodes = root.nodes.len();
    for (animation, found) in root.animations.iter().enumerate() {
        for target in found.channels.iter().map(|channel| &channel.target) {
            let wrong = |found: String, expected: String| {
                let found = format!("animation {animation}: {found}");
                Problem::of_file(path, found).expecting(expected)
            };
            if target.node.value() >= nodes {
                let found = format!("it moves node {}", target.node.value());
                return Err(wrong(found, format!("one below {nodes}")));
            }
            if matches!(target.path, Checked::Invalid) {
                let expected = "`translation`, `rotation`, `scale` or `weights`";
                return Err(wrong("it moves an unknown property".to_owned(), expected.to_owned()));
            }
        }
    }
    Ok(())
}

/// The JSON of a model, text or binary.
fn json_of(bytes: &[u8]) -> &[u8] {
    if !bytes.starts_with(MAGIC) {
        return bytes;
    }
    let length = bytes.get(12..16).map_or(0, |word| u32::from_le_bytes([word[0], word[1], word[2], word[3]]));
    let json = bytes.get(20..).unwrap_or(&[]);
    &json[..json.len().min(length as usize)]
}

fn broken(bytes: &[u8], path: &Path, error: &gltf::Error) -> Problem {
    let found = match error {
        gltf::Error::Deserialize(error) if !bytes.starts_with(MAGIC) => {
            // Text: the position can be shown.
            if let Ok(text) = std::str::from_utf8(bytes) {
                let source = Source { name: path.display().to_string().into(), text: text.into() };
                let lines = text.split_inclusive('\n').take(error.line().saturating_sub(1));
                let line: usize = lines.map(str::len).sum();
                let mut at = (line + error.column().saturating_sub(1)).min(text.len());
                while !text.is_char_boundary(at) {
                    at -= 1;
                }
                return Problem::at(&source, at..at, format!("not glTF: {error}")).expecting("glTF 2.0");
            }
            error.to_string()
        }
        gltf::Error::Validation(all) => {
            let first = all.first().map(|(path, error)| format!("{path}: {error}"));
            first.unwrap_or_else(|| error.to_string())
        }
        other => other.to_string(),
    };
    Problem::of_file(path, format!("not glTF: {found}")).expecting("glTF 2.0")
}

/// The kinds of URI in a model.
enum Named {
    Data(Vec<u8>),
    File(String),
}

const NAMES: &str = "data, or the path of a file in the model's own folder";

/// The meaning of a URI, or what is wrong with it.
fn of_uri(uri: &str) -> Result<Named, String> {
    let shown: String = uri.chars().take(60).collect();
    if uri.starts_with("data:") {
        let data = data_url::DataUrl::process(uri).map_err(|_| format!("no data in `{shown}`"))?;
        let (bytes, _) = data.decode_to_vec().map_err(|_| format!("no base64 in `{shown}`"))?;
        return Ok(Named::Data(bytes));
    }
    let name = percent_encoding::percent_decode_str(uri)
        .decode_utf8()
        .map_err(|_| format!("no text in `{shown}`"))?;
    let is_below = Path::new(&*name).components().all(|part| matches!(part, std::path::Component::Normal(_)));
    if !is_below || name.contains(':') {
        return Err(format!("found `{shown}`"));
    }
    Ok(Named::File(name.into_owned()))
}
