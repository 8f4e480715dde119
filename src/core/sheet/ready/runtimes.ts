import type { ReadySheet } from "./definition";

/** Runtimes of languages and the processes that they run in, by the conventions for each. */

const RUNTIME = "Runtime";

export const runtimes: ReadySheet = {
  id: "runtimes",
  name: "Runtimes and processes",
  purpose: "memory, processor time, threads and collection of garbage of the processes of a service",
  bands: [
    {
      title: "Process",
      plates: [
        {
          title: "Memory",
          of: ["process.memory.usage", "process_resident_memory_bytes"],
          text: "max of {metric} where {where} by release",
        },
        {
          title: "Processor",
          of: ["process.cpu.utilization"],
          text: "mean of {metric} where {where} by release",
          unit: "%",
        },
        {
          title: "Processor time a second",
          of: ["process.cpu.time", "process_cpu_seconds"],
          by: ["cpu.mode", "process.cpu.state", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
        {
          title: "Open files",
          of: ["process.unix.file_descriptor.count", "process.open_file_descriptor.count"],
          text: "max of {metric} where {where} by release",
        },
      ],
    },
    {
      title: "Process by process",
      section: "Process",
      of: ["process.memory.usage"],
      plates: [
        {
          title: "Memory, instance by instance",
          text: 'max of {metric} where {where} by release, service.instance.id as "memory"',
          as: "table",
          settings: { top: 60 },
        },
      ],
    },
    {
      title: "Java",
      section: RUNTIME,
      plates: [
        {
          title: "Memory in use",
          of: ["jvm.memory.used"],
          by: ["jvm.memory.pool.name", "jvm.memory.type", "release"],
          text: "max of {metric} where {where} by {by}",
        },
        {
          title: "Collecting garbage, p95",
          of: ["jvm.gc.duration"],
          by: ["jvm.gc.name", "release"],
          text: "p95 of {metric} where {where} by {by}",
        },
        {
          title: "Threads",
          of: ["jvm.thread.count"],
          by: ["jvm.thread.state", "release"],
          text: "mean of {metric} where {where} by {by}",
        },
        {
          title: "Processor",
          of: ["jvm.cpu.recent_utilization"],
          text: "mean of {metric} where {where} by release",
          unit: "%",
        },
      ],
    },
    {
      title: "Node.js",
      section: RUNTIME,
      plates: [
        {
          title: "Heap in use",
          of: ["v8js.memory.heap.used"],
          by: ["v8js.heap.space.name", "release"],
          text: "max of {metric} where {where} by {by}",
        },
        {
          title: "Collecting garbage, p95",
          of: ["v8js.gc.duration"],
          by: ["v8js.gc.type", "release"],
          text: "p95 of {metric} where {where} by {by}",
        },
        {
          title: "The event loop is late, p99",
          of: ["nodejs.eventloop.delay.p99"],
          text: "max of {metric} where {where} by release",
        },
        {
          title: "The event loop is busy",
          of: ["nodejs.eventloop.utilization"],
          text: "mean of {metric} where {where} by release",
          unit: "%",
        },
      ],
    },
    {
      title: "Go",
      section: RUNTIME,
      plates: [
        {
          title: "Memory in use",
          of: ["go.memory.used"],
          by: ["go.memory.type", "release"],
          text: "max of {metric} where {where} by {by}",
        },
        { title: "Goroutines", of: ["go.goroutine.count"], text: "max of {metric} where {where} by release" },
        {
          title: "Memory asked for a second",
          of: ["go.memory.allocated"],
          text: "rate of {metric} where {where} by release",
        },
        {
          title: "Goroutines wait to run, p95",
          of: ["go.schedule.duration"],
          text: "p95 of {metric} where {where} by release",
        },
      ],
    },
    {
      title: ".NET",
      section: RUNTIME,
      plates: [
        {
          title: "Memory in use",
          of: ["dotnet.process.memory.working_set"],
          text: "max of {metric} where {where} by release",
        },
        {
          title: "Collections of garbage",
          of: ["dotnet.gc.collections"],
          by: ["gc.heap.generation", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
        {
          title: "Waiting for a thread of the pool",
          of: ["dotnet.thread_pool.queue.length"],
          text: "max of {metric} where {where} by release",
        },
        {
          title: "Exceptions",
          of: ["dotnet.exceptions"],
          by: ["error.type", "release"],
          text: "rate of {metric} where {where} by {by} top 6",
        },
      ],
    },
    {
      title: "Python",
      section: RUNTIME,
      plates: [
        {
          title: "Collections of garbage",
          of: ["cpython.gc.collections"],
          by: ["cpython.gc.generation", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
      ],
    },
    { title: "Further of the process", section: "Process", plates: [], others: /^process\.(?!runtime\.)/ },
    {
      title: "Further of the runtime",
      section: RUNTIME,
      plates: [],
      others: /^(jvm|v8js|nodejs|go|dotnet|cpython|python|process\.runtime)\./,
    },
  ],
};
