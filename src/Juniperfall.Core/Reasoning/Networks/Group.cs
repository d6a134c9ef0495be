using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>What one rule, condition or inner bound asks for in one place: it holds or is left out as a whole.</summary>
internal sealed record Group(int Index, CauseKind Kind, Row Row, string Field, Occurrence Occurrence);
