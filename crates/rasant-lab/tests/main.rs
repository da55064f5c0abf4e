//! The lab, through its public interface, as one program.

mod common;

mod bodies;
mod damaged;
mod docs;
mod drafts;
mod drawings;
mod files;
mod fits;
mod games;
mod lab;
mod live;
mod mechanisms;
mod models;
mod oracle;
mod schemas;
mod scripts;
mod sheets;
mod surveys;
mod watched;
mod worlds;
