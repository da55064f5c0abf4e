//! The lab, through its public interface, as one program.

mod common;

mod damaged;
mod docs;
mod drawings;
mod files;
mod fits;
mod lab;
mod live;
mod models;
mod oracle;
mod schemas;
mod scripts;
mod sheets;
mod surveys;
