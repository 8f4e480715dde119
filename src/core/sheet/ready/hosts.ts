import type { ReadySheet } from "./definition";

/** Machines and containers, by the conventions for systems, containers and Kubernetes. */
export const hosts: ReadySheet = {
  id: "hosts",
  name: "Hosts",
  purpose: "processors, memory, disks and networks of what a service runs on",
  bands: [
    {
      title: "Host",
      plates: [
        {
          title: "Processors",
          of: ["system.cpu.utilization"],
          by: ["cpu.mode", "system.cpu.state", "release"],
          text: "mean of {metric} where {where} by {by}",
          unit: "%",
        },
        {
          title: "Memory",
          of: ["system.memory.usage"],
          by: ["system.memory.state", "state", "release"],
          text: "mean of {metric} where {where} by {by}",
        },
        {
          title: "Disks are full",
          of: ["system.filesystem.utilization"],
          by: ["system.filesystem.mountpoint", "system.device", "release"],
          text: "max of {metric} where {where} by {by}",
          unit: "%",
        },
        {
          title: "Load, one minute",
          of: ["system.linux.cpu.load_1m", "system.cpu.load_average.1m"],
          text: "mean of {metric} where {where} by release",
        },
      ],
    },
    {
      title: "Disks and networks",
      section: "Host",
      plates: [
        {
          title: "Read and written",
          of: ["system.disk.io"],
          by: ["disk.io.direction", "direction", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
        {
          title: "Sent and received",
          of: ["system.network.io"],
          by: ["network.io.direction", "direction", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
        {
          title: "Errors of the network",
          of: ["system.network.errors"],
          by: ["network.io.direction", "direction", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
      ],
    },
    {
      title: "Container",
      section: "Host",
      plates: [
        {
          title: "Processors in use",
          of: ["container.cpu.usage", "k8s.pod.cpu.usage"],
          text: "mean of {metric} where {where} by release",
        },
        {
          title: "Memory in use",
          of: ["container.memory.usage", "k8s.pod.memory.usage"],
          text: "max of {metric} where {where} by release",
        },
      ],
    },
    {
      title: "Further of the host",
      section: "Host",
      plates: [],
      others: /^(system|host|container|k8s)\./,
    },
  ],
};
