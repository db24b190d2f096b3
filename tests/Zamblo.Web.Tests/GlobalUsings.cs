global using Xunit;
global using Zamblo.Storm;
