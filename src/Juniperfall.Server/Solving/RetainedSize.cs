using System.Collections.Concurrent;
using System.Linq.Expressions;
using System.Reflection;
using System.Runtime.CompilerServices;

namespace Juniperfall.Server.Solving;

/// <summary>
/// How many bytes a graph of objects keeps alive: each object that can be reached is counted once. It is close rather than exact, since
/// the runtime pads objects. Code, threads and what belongs to the process as a whole are not counted.
/// </summary>
internal static class RetainedSize
{
    private const int Header = 16, ArrayHeader = 24;

    private static readonly ConcurrentDictionary<Type, Layout> Layouts = new();
    private static readonly MethodInfo ElementsOfStructs = typeof(RetainedSize).GetMethod(nameof(PushElements), BindingFlags.Static | BindingFlags.NonPublic)!;
    private static readonly MethodInfo SizeOfMethod = typeof(Unsafe).GetMethod(nameof(Unsafe.SizeOf))!;

    /// <summary>What an object of a type takes itself, and how what it refers to is pushed; null where it refers to nothing.</summary>
    private sealed record Layout(int Bytes, int ElementBytes, Action<object, Stack<object>>? Push);

    /// <param name="isOthers">Where not to go on: what is counted elsewhere.</param>
    public static long Of(object root, Func<object, bool> isOthers)
    {
        var seen = new HashSet<object>(ReferenceEqualityComparer.Instance) { root };
        var open = new Stack<object>();
        open.Push(root);
        var bytes = 0L;
        var found = new Stack<object>();
        while (open.TryPop(out var next))
        {
            var layout = Layouts.GetOrAdd(next.GetType(), LayoutOf);
            bytes += next switch
            {
                string text => ArrayHeader + (2 * text.Length),
                Array array => ArrayHeader + (array.LongLength * layout.ElementBytes),
                _ => layout.Bytes,
            };
            if (layout.Push is null)
                continue;
            layout.Push(next, found);
            while (found.TryPop(out var reached))
                if (!IsOfTheProcess(reached) && !isOthers(reached) && seen.Add(reached))
                    open.Push(reached);
        }
        return bytes;
    }

    private static bool IsOfTheProcess(object reached) =>
        reached is MemberInfo or Assembly or Thread or Delegate or CancellationTokenSource or WeakReference or Task;

    private static Layout LayoutOf(Type type)
    {
        if (type == typeof(string))
            return new(0, 0, null);
        if (type.IsArray)
        {
            var element = type.GetElementType()!;
            return !element.IsValueType ? new(0, IntPtr.Size, (array, found) => PushReferences((Array)array, found))
                : new(0, SizeOf(element), HasReferences(element) && type.IsSZArray ? PushStructs(element) : null);
        }
        var body = FieldsOf(type).Sum(f => f.FieldType.IsValueType ? SizeOf(f.FieldType) : IntPtr.Size);
        return new(Header + ((body + 7) / 8 * 8), 0, PushFields(type));
    }

    private static void PushReferences(Array array, Stack<object> found)
    {
        foreach (var element in array as object?[] ?? array.Cast<object?>())
            if (element is not null)
                found.Push(element);
    }

    private static int SizeOf(Type type) => type.IsPointer || type.IsByRefLike ? IntPtr.Size : (int)SizeOfMethod.MakeGenericMethod(type).Invoke(null, null)!;

    private static bool HasReferences(Type type) => !type.IsPrimitive && !type.IsEnum && !type.IsPointer
        && FieldsOf(type).Any(f => !f.FieldType.IsValueType ? !f.FieldType.IsPointer : HasReferences(f.FieldType));

    private static IEnumerable<FieldInfo> FieldsOf(Type type)
    {
        for (var at = type; at is not null && at != typeof(object) && at != typeof(ValueType); at = at.BaseType)
            foreach (var field in at.GetFields(BindingFlags.Instance | BindingFlags.Public | BindingFlags.NonPublic | BindingFlags.DeclaredOnly))
                yield return field;
    }

    private static Action<object, Stack<object>>? PushFields(Type type)
    {
        var (from, to) = (Expression.Parameter(typeof(object)), Expression.Parameter(typeof(Stack<object>)));
        var pushes = Pushes(Expression.Convert(from, type), type, to).ToList();
        return pushes.Count == 0 ? null : Expression.Lambda<Action<object, Stack<object>>>(Expression.Block(pushes), from, to).Compile();
    }

    private static Action<object, Stack<object>> PushStructs(Type element)
    {
        var (value, to) = (Expression.Parameter(element), Expression.Parameter(typeof(Stack<object>)));
        var each = Expression.Lambda(typeof(Action<,>).MakeGenericType(element, typeof(Stack<object>)), Expression.Block(Pushes(value, element, to)), value,
            to).Compile();
        return (Action<object, Stack<object>>)ElementsOfStructs.MakeGenericMethod(element).Invoke(null, [each])!;
    }

    private static Action<object, Stack<object>> PushElements<T>(Action<T, Stack<object>> each) => (array, found) =>
    {
        foreach (var element in (T[])array)
            each(element, found);
    };

    private static IEnumerable<Expression> Pushes(Expression of, Type type, Expression to)
    {
        foreach (var field in FieldsOf(type))
        {
            if (field.FieldType.IsPointer || field.FieldType.IsByRefLike)
                continue;
            var value = Expression.Field(of, field);
            if (!field.FieldType.IsValueType)
                yield return Expression.IfThen(Expression.ReferenceNotEqual(value, Expression.Constant(null)),
                    Expression.Call(to, nameof(Stack<>.Push), null, Expression.Convert(value, typeof(object))));
            else if (HasReferences(field.FieldType))
                foreach (var below in Pushes(value, field.FieldType, to))
                    yield return below;
        }
    }
}
