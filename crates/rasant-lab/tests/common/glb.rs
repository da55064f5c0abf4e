//! Writes binary glTF, for the tests and for the file that is shipped.

use rasant::glam::Vec3;
use serde_json::{Value, json};

/// A node, what of it moves, how it is blended, the times and the values.
pub type Track<'a> = (usize, &'a str, &'a str, &'a [f32], &'a [f32]);

/// A model that is being made.
#[derive(Default)]
pub struct Glb {
    pub nodes: Vec<Value>,
    meshes: Vec<Value>,
    accessors: Vec<Value>,
    views: Vec<Value>,
    animations: Vec<Value>,
    data: Vec<u8>,
}

impl Glb {
    fn accessor(
        &mut self,
        bytes: &[u8],
        count: usize,
        component: u32,
        kind: &str,
        bounds: Option<(Vec3, Vec3)>,
    ) -> usize {
        self.views.push(json!({ "buffer": 0, "byteOffset": self.data.len(), "byteLength": bytes.len() }));
        self.data.extend_from_slice(bytes);
        self.data.resize(self.data.len().next_multiple_of(4), 0);
        let mut accessor = json!({ "bufferView": self.views.len() - 1, "componentType": component, "count": count, "type": kind });
        if let Some((min, max)) = bounds {
            accessor["min"] = json!(min.to_array());
            accessor["max"] = json!(max.to_array());
        }
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }

    fn floats(&mut self, numbers: &[f32], kind: &str, each: usize) -> usize {
        let bytes: Vec<u8> = numbers.iter().flat_map(|number| number.to_le_bytes()).collect();
        self.accessor(&bytes, numbers.len() / each, 5126, kind, None)
    }

    /// A mesh of triangles, by its number.
    pub fn mesh(&mut self, vertices: &[Vec3], triangles: &[[u16; 3]]) -> usize {
        let places: Vec<u8> =
            vertices.iter().flat_map(|of| of.to_array()).flat_map(f32::to_le_bytes).collect();
        let bounds = vertices
            .iter()
            .fold((Vec3::INFINITY, Vec3::NEG_INFINITY), |(min, max), of| (min.min(*of), max.max(*of)));
        let position = self.accessor(&places, vertices.len(), 5126, "VEC3", Some(bounds));
        let corners: Vec<u8> = triangles.iter().flatten().flat_map(|corner| corner.to_le_bytes()).collect();
        let indices = self.accessor(&corners, triangles.len() * 3, 5123, "SCALAR", None);
        self.meshes
            .push(json!({ "primitives": [{ "attributes": { "POSITION": position }, "indices": indices }] }));
        self.meshes.len() - 1
    }

    /// A box from one corner to the other.
    pub fn block(&mut self, min: Vec3, max: Vec3) -> usize {
        let corner = |i: u16| {
            let pick = |bit: u16, axis: usize| if i >> bit & 1 == 1 { max[axis] } else { min[axis] };
            Vec3::new(pick(0, 0), pick(1, 1), pick(2, 2))
        };
        let vertices: Vec<Vec3> = (0..8).map(corner).collect();
        let sides = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]];
        let triangles: Vec<[u16; 3]> =
            sides.iter().flat_map(|&[a, b, c, d]| [[a, b, c], [a, c, d]]).collect();
        self.mesh(&vertices, &triangles)
    }

    /// A node, by its number.
    pub fn node(&mut self, node: Value) -> usize {
        self.nodes.push(node);
        self.nodes.len() - 1
    }

    /// An animation of some nodes' places or turns: `(node, path, interpolation, times, values)`.
    pub fn animation(&mut self, name: &str, tracks: &[Track<'_>]) {
        let (mut channels, mut samplers) = (Vec::new(), Vec::new());
        for (node, path, how, times, values) in tracks {
            let input = self.floats(times, "SCALAR", 1);
            let ends = times
                .iter()
                .fold((f32::MAX, f32::MIN), |(low, high), time| (low.min(*time), high.max(*time)));
            self.accessors[input]["min"] = json!([ends.0]);
            self.accessors[input]["max"] = json!([ends.1]);
            let (kind, each) = if *path == "rotation" { ("VEC4", 4) } else { ("VEC3", 3) };
            let output = self.floats(values, kind, each);
            channels.push(json!({ "sampler": samplers.len(), "target": { "node": node, "path": path } }));
            samplers.push(json!({ "input": input, "output": output, "interpolation": how }));
        }
        self.animations.push(json!({ "name": name, "channels": channels, "samplers": samplers }));
    }

    /// All of it but the binary part, as JSON; the nodes that are in no other are the scene's.
    pub fn json(&self) -> Value {
        let inner: Vec<&Value> =
            self.nodes.iter().filter_map(|node| node["children"].as_array()).flatten().collect();
        let roots: Vec<usize> =
            (0..self.nodes.len()).filter(|number| !inner.contains(&&json!(number))).collect();
        let mut model = json!({
            "asset": { "version": "2.0", "generator": "Rasant's own tests" },
            "scene": 0,
            "scenes": [{ "nodes": roots }],
            "nodes": self.nodes,
            "buffers": [{ "byteLength": self.data.len() }],
        });
        let lists = [
            ("meshes", &self.meshes),
            ("accessors", &self.accessors),
            ("bufferViews", &self.views),
            ("animations", &self.animations),
        ];
        for (name, list) in lists.into_iter().filter(|(_, list)| !list.is_empty()) {
            model[name] = json!(list);
        }
        model
    }

    pub fn data(&self) -> &[u8] {
        &self.data
    }

    pub fn bytes(&self) -> Vec<u8> {
        container(&self.json(), &self.data)
    }
}

/// A binary file of a model.
pub fn container(model: &Value, data: &[u8]) -> Vec<u8> {
    let mut json = model.to_string().into_bytes();
    json.resize(json.len().next_multiple_of(4), b' ');
    let length = 12 + 8 + json.len() + 8 + data.len();
    let mut bytes = b"glTF".to_vec();
    for word in [2, length as u32, json.len() as u32] {
        bytes.extend(word.to_le_bytes());
    }
    bytes.extend(b"JSON");
    bytes.extend(json);
    bytes.extend((data.len() as u32).to_le_bytes());
    bytes.extend(b"BIN\0");
    bytes.extend(data);
    bytes
}
